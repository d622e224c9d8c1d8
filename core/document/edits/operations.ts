import { parsePort } from '../address'
import type { MaterialDocument, Source } from '../document'
import type { NodeTypes } from '../node-types'
import type { CellPlace } from './nodes'
import { connect, connectedInputs, feedersOf } from './nodes'
import { findPlain, setCell } from './layers'

/** A node in the chain that leads to a cell. */
export interface Operation {
  readonly node: string
  /** The output that goes on. */
  readonly port: string
  /** The input that the chain comes in by; null where it has none, or none is connected. */
  readonly input: string | null
}

/** The nodes that lead to a cell one after another, and what they begin from: null where the first lacks it. */
export interface Operations {
  readonly start: Source | null
  readonly list: readonly Operation[]
}

/**
 * The chain of nodes that leads to a cell, the first operation first: from node to node by the input that comes from what lies
 * below, or by the first that is connected.
 */
export function operationsOf(document: MaterialDocument, registry: NodeTypes, place: CellPlace): Operations {
  const list: Operation[] = []
  const seen = new Set<string>()
  let source: Source | null = findPlain(document, place.layer)?.cells[place.channel]?.source ?? null
  while (source && 'node' in source) {
    const { node: id, port } = parsePort(source.node)
    const node = document.nodes[id]
    if (!node || seen.has(id)) break
    seen.add(id)
    const inputs = connectedInputs(node, registry)
    const main = inputs.find((input) => readsBelow(document, input.source)) ?? inputs[0]
    list.unshift({ node: id, port, input: main?.port ?? null })
    source = main?.source ?? null
  }
  return { start: source, list }
}

const readsBelow = (document: MaterialDocument, source: Source): boolean =>
  'backdrop' in source ||
  feedersOf(document, source).some((id) =>
    Object.values(document.nodes[id]!.inputs ?? {}).some((input) => typeof input !== 'string' && 'backdrop' in input),
  )

/** Gives an operation another place in the chain. */
export function moveOperation(
  draft: MaterialDocument,
  registry: NodeTypes,
  place: CellPlace,
  from: number,
  to: number,
): void {
  const { start, list } = operationsOf(draft, registry, place)
  const order = [...list]
  const [moved] = order.splice(from, 1)
  if (!moved || to < 0 || to > order.length) return
  order.splice(to, 0, moved)
  let source = start
  for (const { node, port, input } of order) {
    const into = input ?? Object.keys(registry.get(draft.nodes[node]!.type)?.inputs ?? {})[0]
    // A node that takes nothing in begins anew.
    if (source && into !== undefined) connect(draft, node, into, source)
    source = { node: `${node}.${port}` }
  }
  if (source) setCell(draft, place.layer, place.channel, { source })
}
