import { canonicalJson, hashText } from '../content-key'
import type { ErrorPlace } from '../errors'
import { GristError, located } from '../errors'
import type { PortType } from '../field/field'
import { CONVERSIONS, REFUSED } from './conversions'
import { sharedType } from './port-types'
import type { AnyNode, Registry } from './define-node'
import { explainIssue } from '../document/document'

/** One evaluation of one node: parameters complete, every input a result of another step. */
export interface Step {
  readonly index: number
  readonly node: AnyNode
  readonly params: Readonly<Record<string, unknown>>
  readonly inputs: Readonly<Record<string, PortRef | null>>
  readonly outputs: Readonly<Record<string, PortType>>
  /** Hash of node type and version, parameters, inputs' keys and the domain data it uses; the size comes on top. */
  readonly key: string
  /** One value everywhere: kept as one row. */
  readonly uniform: boolean
  /** Where it comes from, for messages. */
  readonly place: ErrorPlace
}

export interface PortRef {
  readonly step: Step
  readonly port: string
}

/** A graph of nodes only, and where each asked-for output is found in it. */
export interface Graph {
  readonly steps: readonly Step[]
  readonly outputs: ReadonlyMap<string, PortRef>
}

/** What of the document every step may depend on. */
export interface Domain {
  readonly seed: number
  readonly metres: readonly [number, number]
  readonly heightMetres: number
}

export const typeOf = (ref: PortRef): PortType => ref.step.outputs[ref.port]!
export const sameRef = (a: PortRef, b: PortRef): boolean => a.step === b.step && a.port === b.port

/**
 * Collects steps. Equal work becomes one step; conversions are steps, and inverse neighbours cancel here, whatever
 * is asked for later, so a stack of sRGB-encoded blends is encoded once and decoded once.
 */
export class GraphBuilder {
  readonly steps: Step[] = []
  private readonly byKey = new Map<string, Step>()

  constructor(
    readonly registry: Registry,
    readonly domain: Domain,
  ) {}

  /**
   * Adds one node. Absent inputs take what the port says; given ones are converted to the port's type.
   * Throws node-unknown, parameter-invalid, input-missing, type-mismatch.
   */
  add(
    type: string,
    given: Readonly<Record<string, unknown>>,
    inputs: Readonly<Record<string, PortRef | undefined>>,
    place: ErrorPlace = {},
  ): (port: string) => PortRef {
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
    const encoded = sameType === 'colour' && (node.encoded?.(params as never) ?? false)
    const resolved: Record<string, PortRef | null> = {}
    for (const [name, port] of Object.entries(node.inputs)) {
      const to = port.type === 'same' ? sameType : port.type
      const connected = inputs[name] ?? this.otherwise(port.otherwise, name, type, place)
      if (!connected) {
        resolved[name] = null
        continue
      }
      const converted = located({ ...place, parameter: name }, () => this.convert(connected, to))
      resolved[name] = encoded && port.type === 'same' ? this.encode(converted) : converted
    }
    const outputs = Object.fromEntries(
      Object.entries(node.outputs).map(([name, port]) => [name, port.type === 'same' ? sameType : port.type]),
    )
    const step = this.intern(node, params, resolved, outputs, place)
    return (port) => {
      if (!(port in outputs))
        throw new GristError(
          'reference-unknown',
          `"${type}" has no output "${port}". It has: ${listOf(node.outputs)}.`,
          place,
        )
      const ref = { step, port }
      return encoded && node.outputs[port]!.type === 'same' ? this.decode(ref) : ref
    }
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
    return this.add(conversion, {}, { source: ref })('result')
  }

  encode(ref: PortRef): PortRef {
    return this.inverseOf(ref, 'decode-srgb') ?? this.add('encode-srgb', {}, { source: ref })('result')
  }

  decode(ref: PortRef): PortRef {
    return this.inverseOf(ref, 'encode-srgb') ?? this.add('decode-srgb', {}, { source: ref })('result')
  }

  constant(value: number | string): PortRef {
    return typeof value === 'number'
      ? this.add('constant', { value }, {})('grey')
      : this.add('constant', { colour: value }, {})('colour')
  }

  private inverseOf(ref: PortRef, type: string): PortRef | null {
    return ref.step.node.type === type ? ref.step.inputs.source! : null
  }

  private otherwise(value: number | null | undefined, name: string, type: string, place: ErrorPlace): PortRef | null {
    if (value === undefined)
      throw new GristError('input-missing', `The input "${name}" of "${type}" must be connected.`, place)
    return value === null ? null : this.constant(value)
  }

  /** The one type of the node's `same` ports. */
  private sameType(node: AnyNode, inputs: Readonly<Record<string, PortRef | undefined>>, place: ErrorPlace): PortType {
    const allowed = node.sameTypes
    if (!allowed) return 'grey'
    const connected = Object.entries(node.inputs)
      .filter(([name, port]) => port.type === 'same' && inputs[name])
      .map(([name]) => typeOf(inputs[name]!))
    const shared = sharedType(allowed, connected)
    if (shared) return shared
    throw new GristError(
      'type-mismatch',
      `"${node.type}" takes ${allowed.join(' or ')} but received ${connected[0]}.`,
      place,
    )
  }

  private intern(
    node: AnyNode,
    params: Record<string, unknown>,
    inputs: Record<string, PortRef | null>,
    outputs: Record<string, PortType>,
    place: ErrorPlace,
  ): Step {
    const domain = (node.uses ?? []).map((use) => [use, this.domain[use]])
    const refs = Object.entries(inputs).map(([name, ref]) => [name, ref && `${ref.step.key}.${ref.port}`])
    const types = Object.values(outputs).join()
    const key = hashText(canonicalJson([node.type, node.version, params, refs, types, domain]))
    const known = this.byKey.get(key)
    if (known) return known
    const fed = Object.values(inputs).filter((ref) => ref !== null)
    const point = node.reach(params as never, { width: 1, height: 1, metres: this.domain.metres }) === 'point'
    const uniform = node.uniform === true || (point && fed.length > 0 && fed.every((ref) => ref.step.uniform))
    const step: Step = { index: this.steps.length, node, params, inputs, outputs, key, uniform, place }
    this.steps.push(step)
    this.byKey.set(key, step)
    return step
  }
}

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
  return Object.fromEntries(
    Object.entries(node.params).map(([name, parameter]) => {
      const value = Object.hasOwn(given, name) ? given[name] : parameter.default
      const result = parameter.schema.safeParse(value)
      if (!result.success)
        throw new GristError('parameter-invalid', explainIssue(result.error.issues[0]!, value), {
          ...place,
          parameter: name,
        })
      return [name, result.data]
    }),
  )
}
