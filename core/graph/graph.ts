import type { ErrorPlace } from '../errors'
import { GristError, located } from '../errors'
import type { PortType } from '../field/field'
import { CONVERSIONS, REFUSED } from './conversions'
import { sharedType } from './port-types'
import type { AnyNode } from './define-node'
import { usedDomain } from './define-node'
import type { Domain } from './domain'
import { footprintOf } from './footprint'
import { Digests } from './digest'
import type { InputPort } from './ports'
import type { Registry } from './registry'
import { explainIssue } from '../document/document'

/** One evaluation of one node: parameters complete, every input a result of another step. */
export interface Step {
  readonly index: number
  readonly node: AnyNode
  /** Replaced where a number changes (GraphBuilder.change). */
  params: Readonly<Record<string, unknown>>
  readonly inputs: Readonly<Record<string, PortRef | null>>
  /** The inputs that are there, in order. */
  readonly reads: readonly PortRef[]
  /** Indices of the steps that `reads` come from, in the same order. */
  readonly feeding: readonly number[]
  readonly outputs: Readonly<Record<string, PortType>>
  /** Identifies what it computes, but for the size: equal digests, equal bits. Changes with numbers before it. */
  digest: string
  /** One value everywhere: kept as one row. */
  readonly uniform: boolean
  /** Where it comes from, for messages. */
  readonly place: ErrorPlace
}

export interface PortRef {
  readonly step: Step
  readonly port: string
}

/** A step that was added, and its results by port. */
export interface Added {
  readonly step: Step
  /** Throws reference-unknown where there is no such port. */
  out(port: string): PortRef
}

/** A graph of nodes only, and where each asked-for output is found in it, by its text. */
export interface Graph {
  readonly domain: Domain
  /** Inputs come before what reads them. */
  readonly steps: readonly Step[]
  /** By index: the first step that is equal. */
  readonly same: Int32Array
  readonly outputs: ReadonlyMap<string, PortRef>
}

export const typeOf = (ref: PortRef): PortType => ref.step.outputs[ref.port]!
export const sameRef = (a: PortRef, b: PortRef): boolean => a.step === b.step && a.port === b.port

/**
 * Collects steps. Conversions are steps, and inverse neighbours cancel here, whatever is asked for later, so a stack of
 * sRGB-encoded blends is encoded once and decoded once. Steps whose numbers may change later stay apart, even where they
 * are equal now; their digests tell that they are.
 */
export class GraphBuilder {
  readonly steps: Step[] = []
  private readonly fixed = new Map<string, Step>()
  private readonly digests = new Digests()
  /** Kept until a step is added or a digest changes. */
  private equal: Int32Array | null = null
  /** Steps whose parameters were replaced, and whose followers have their old digests still. */
  private readonly changed = new Set<number>()

  constructor(
    readonly registry: Registry,
    readonly domain: Domain,
  ) {}

  /**
   * Adds a node of no document, whose parameters stay as they are; the same once more is the same step. Absent inputs take
   * what the port says; given ones are converted to the port's type.
   * Throws node-unknown, parameter-invalid, input-missing, type-mismatch.
   */
  add(type: string, given: Readonly<Record<string, unknown>>, inputs: Inputs, place: ErrorPlace = {}): Added {
    return this.insert(type, given, inputs, place, true)
  }

  /** As add, for a node whose parameters may change (see change). */
  addChanging(type: string, given: Readonly<Record<string, unknown>>, inputs: Inputs, place: ErrorPlace = {}): Added {
    return this.insert(type, given, inputs, place, false)
  }

  private insert(
    type: string,
    given: Readonly<Record<string, unknown>>,
    inputs: Inputs,
    place: ErrorPlace,
    fixed: boolean,
  ): Added {
    const node = this.registry.get(type)
    if (!node) throw new GristError('node-unknown', `There is no node type "${type}". See "grist nodes".`, place)
    const params = checkParameters(node, given, place)
    for (const name of Object.keys(inputs))
      if (!(name in node.inputs))
        throw new GristError(
          'reference-unknown',
          `"${type}" has no input "${name}". It has: ${listOf(node.inputs)}.`,
          place,
        )
    const sameType = this.sameType(node, inputs, place)
    const encoded = sameType === 'colour' && isEncoded(node, params)
    const resolved: Record<string, PortRef | null> = {}
    for (const [name, port] of Object.entries(node.inputs)) {
      const to = port.type === 'any' ? sameType : port.type
      const connected = inputs[name] ?? this.whenUnconnected(port.whenUnconnected, name, type, place)
      if (!connected) {
        resolved[name] = null
        continue
      }
      const converted =
        typeOf(connected) === to ? connected : located({ ...place, parameter: name }, () => this.convert(connected, to))
      resolved[name] = encoded && port.type === 'any' ? this.encode(converted) : converted
    }
    const outputs: Record<string, PortType> = {}
    for (const [name, port] of Object.entries(node.outputs)) outputs[name] = port.type === 'any' ? sameType : port.type
    const step = this.place(node, params, resolved, outputs, place, fixed)
    return {
      step,
      out: (port) => {
        if (!Object.hasOwn(outputs, port))
          throw new GristError(
            'reference-unknown',
            `"${type}" has no output "${port}". It has: ${listOf(node.outputs)}.`,
            place,
          )
        const ref = { step, port }
        return encoded && node.outputs[port]!.type === 'any' ? this.decode(ref) : ref
      },
    }
  }

  /**
   * Gives a step other parameters. False where the graph would have to be another one: then nothing was changed. Its
   * digest, and those of the steps after it, are brought up by `settle`. Throws parameter-invalid.
   */
  change(step: Step, given: Readonly<Record<string, unknown>>): boolean {
    const params = checkParameters(step.node, given, step.place)
    const { node } = step
    if (isEncoded(node, params) !== isEncoded(node, step.params)) return false
    if (isPoint(node, params, this.domain) !== isPoint(node, step.params, this.domain)) return false
    step.params = params
    this.digests.setOwn(step.index, this.ownText(step))
    this.changed.add(step.index)
    return true
  }

  /** For each step the index of the first that is equal to it. */
  get same(): Int32Array {
    if (this.equal?.length !== this.steps.length) this.equal = this.digests.firstEqual(this.steps.length)
    return this.equal
  }

  /** Brings the digests up after changes. */
  updateDigests(): void {
    if (this.changed.size === 0) return
    const stale = new Uint8Array(this.steps.length)
    for (const index of this.changed) stale[index] = 1
    for (let i = Math.min(...this.changed); i < this.steps.length; i++) {
      const step = this.steps[i]!
      const { feeding } = step
      for (let k = 0; stale[i] === 0 && k < feeding.length; k++) stale[i] = stale[feeding[k]!]!
      if (stale[i] === 1) step.digest = this.digests.combine(i, feeding)
    }
    this.changed.clear()
    this.equal = null
  }

  /** The same field as another type. Throws type-mismatch with the reason where there is no way. */
  convert(ref: PortRef, to: PortType): PortRef {
    const from = typeOf(ref)
    if (from === to) return ref
    const conversion = CONVERSIONS[`${from}>${to}`]
    if (!conversion)
      throw new GristError(
        'type-mismatch',
        `Expected ${to} but received ${from}. ${REFUSED[`${from}>${to}`] ?? ''}`.trim(),
      )
    return this.add(conversion, {}, { source: ref }).out('result')
  }

  encode(ref: PortRef): PortRef {
    return this.inverseOf(ref, 'decode-srgb') ?? this.add('encode-srgb', {}, { source: ref }).out('result')
  }

  decode(ref: PortRef): PortRef {
    return this.inverseOf(ref, 'encode-srgb') ?? this.add('decode-srgb', {}, { source: ref }).out('result')
  }

  constant(value: number | string): PortRef {
    return this.add('constant', constantParams(value), {}).out(typeof value === 'number' ? 'grey' : 'colour')
  }

  private inverseOf(ref: PortRef, type: string): PortRef | null {
    return ref.step.node.type === type ? ref.step.inputs.source! : null
  }

  private whenUnconnected(
    value: InputPort['whenUnconnected'],
    name: string,
    type: string,
    place: ErrorPlace,
  ): PortRef | null {
    if (value === undefined)
      throw new GristError('input-missing', `The input "${name}" of "${type}" must be connected.`, {
        ...place,
        parameter: name,
      })
    if (value === null) return null
    if (typeof value === 'number') return this.constant(value)
    return this.add(value.type, value.params, {}, place).out(value.port)
  }

  /** The one type of the node's `same` ports. */
  private sameType(node: AnyNode, inputs: Inputs, place: ErrorPlace): PortType {
    const allowed = node.genericTypes
    if (!allowed) return 'grey'
    const connected = Object.entries(node.inputs)
      .filter(([name, port]) => port.type === 'any' && inputs[name])
      .map(([name]) => typeOf(inputs[name]!))
    const shared = sharedType(allowed, connected)
    if (shared) return shared
    throw new GristError(
      'type-mismatch',
      `"${node.type}" takes ${allowed.join(' or ')} but received ${connected[0]}.`,
      place,
    )
  }

  private place(
    node: AnyNode,
    params: Record<string, unknown>,
    inputs: Record<string, PortRef | null>,
    outputs: Record<string, PortType>,
    place: ErrorPlace,
    fixed: boolean,
  ): Step {
    const fed = Object.values(inputs).filter((ref) => ref !== null)
    const uniform =
      node.uniform === true ||
      (fed.length > 0 && fed.every((ref) => ref.step.uniform) && isPoint(node, params, this.domain))
    const step: Step = {
      index: this.steps.length,
      node,
      params,
      inputs,
      reads: fed,
      feeding: fed.map((ref) => ref.step.index),
      outputs,
      digest: '',
      uniform,
      place,
    }
    const text = this.ownText(step)
    const { feeding } = step
    const key = fixed ? `${text} ${feeding.join()}` : ''
    const known = fixed ? this.fixed.get(key) : undefined
    if (known) return known
    this.steps.push(step)
    if (fixed) this.fixed.set(key, step)
    this.digests.setOwn(step.index, text)
    step.digest = this.digests.combine(step.index, feeding)
    return step
  }

  /** Everything of a step but the steps that feed it, as a text of its own. Parameters stand in their node's order. */
  private ownText({ node, params, inputs, outputs }: Step): string {
    let ports = ''
    for (const name in inputs) ports += `,${name}=${inputs[name]?.port ?? ''}`
    const types = Object.values(outputs).join()
    const used = node.uses || this.domain.part ? usedDomain(node, params, this.domain) : []
    const domain = used.length > 0 ? JSON.stringify(used) : ''
    return `${node.type} ${node.version}${ports} ${types} ${domain} ${JSON.stringify(params)}`
  }
}

type Inputs = Readonly<Record<string, PortRef | undefined>>

/** Parameters of the node that gives a plain value or a colour. */
export const constantParams = (value: number | string): Record<string, unknown> =>
  typeof value === 'number' ? { value } : { colour: value }

const isEncoded = (node: AnyNode, params: Readonly<Record<string, unknown>>): boolean =>
  node.encoded?.(params as never) ?? false

/** Whether inputs of one value give one value. */
const isPoint = (node: AnyNode, params: Readonly<Record<string, unknown>>, { metres }: Domain): boolean =>
  footprintOf(node, params, { width: 1, height: 1, metres }) === 'point'

const listOf = (ports: object): string => Object.keys(ports).join(', ') || 'none'

/** Parameters complete and checked. Throws parameter-invalid, naming the one, its range and what came. */
export function checkParameters(
  node: AnyNode,
  given: Readonly<Record<string, unknown>>,
  place: ErrorPlace = {},
): Record<string, unknown> {
  for (const name of Object.keys(given))
    if (!Object.hasOwn(node.params, name))
      throw new GristError(
        'parameter-invalid',
        `"${node.type}" has no parameter "${name}". It has: ${listOf(node.params)}.`,
        place,
      )
  const params: Record<string, unknown> = {}
  for (const [name, parameter] of Object.entries(node.params)) {
    // Defaults were checked when the node was defined.
    if (!Object.hasOwn(given, name)) {
      params[name] = parameter.default
      continue
    }
    const result = parameter.schema.safeParse(given[name])
    if (!result.success)
      throw new GristError('parameter-invalid', explainIssue(result.error.issues[0]!, given[name]), {
        ...place,
        parameter: name,
      })
    params[name] = result.data
  }
  return params
}
