import { canonicalJson, hashText } from '../hash'
import { usedDomain } from './define-node'
import type { Domain } from './domain'
import type { Step } from './graph'

/**
 * The key that records hold: SHA-256 over node type and version, parameters, the inputs' keys and the domain data a node
 * uses. Same key, port and size, same bits, in any program of this version of its nodes.
 */
export function contentKey(wanted: Step, domain: Domain, known = new Map<Step, string>()): string {
  // Inputs first, without nesting calls: chains are thousands of steps long.
  const open = [wanted]
  while (open.length > 0) {
    const step = open.at(-1)!
    const missing = feeding(step).filter((input) => !known.has(input))
    open.push(...missing)
    if (missing.length > 0) continue
    open.pop()
    if (known.has(step)) continue
    const { node, params, inputs, outputs } = step
    const refs = Object.entries(inputs).map(([name, input]) => [
      name,
      input && `${known.get(input.step)}.${input.port}`,
    ])
    const uses = usedDomain(node, params, domain)
    known.set(
      step,
      hashText(canonicalJson([node.type, node.version, params, refs, Object.values(outputs).join(), uses])),
    )
  }
  return known.get(wanted)!
}

const feeding = (step: Step): Step[] => Object.values(step.inputs).flatMap((ref) => (ref ? [ref.step] : []))
