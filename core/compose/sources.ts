import { parsePort } from '../document/address'
import type { DocumentNode, Source, Tap } from '../document/document'
import { allLayers } from '../document/document'
import { asSource } from '../document/sources'
import { GristError, located } from '../errors'
import type { PortType } from '../field/field'
import { CONVERSIONS } from '../graph/conversions'
import type { PortRef } from '../graph/graph'
import { constantParams, typeOf } from '../graph/graph'
import { upgradeParameters } from '../graph/upgrade-parameters'
import { nodeReads } from './backdrop'
import type { Context, Position } from './context'
import type { Amount } from './mix'
import { addWithAmount } from './mix'

/** What sources read: values, nodes, taps, the backdrop. `readsBackdrop` are the nodes that change with who reads them. */
export class Sources {
  constructor(
    private readonly context: Context,
    private readonly readsBackdrop: ReadonlySet<string>,
  ) {}

  read(source: Source, position: Position | null, now?: () => Source): PortRef {
    if ('value' in source)
      return position && now ? this.value(source.value, position, now) : this.context.builder.constant(source.value)
    if ('node' in source) return this.port(source.node, position)
    if ('tap' in source) return this.tap(source.tap, position)
    return this.backdrop(source.backdrop, position)
  }

  /** A plain value of a layer, which may be turned. */
  private value(value: number | string, { layer }: Position, now: () => Source): PortRef {
    const params = (): Record<string, unknown> => {
      const source = now()
      return constantParams('value' in source ? source.value : value)
    }
    const { step, out } = this.context.builder.addChanging('constant', constantParams(value), {})
    this.context.bind(`layer ${layer.id}`, step, params)
    return out(typeof value === 'number' ? 'grey' : 'colour')
  }

  private backdrop(id: string, position: Position | null): PortRef {
    const channel = this.context.channel(id)
    if (!position)
      throw new GristError('reference-unknown', 'What lies below is that of a layer, and this belongs to none.')
    return this.context.after(position.scope, position.index - 1, channel).value
  }

  tap(name: string, position: Position | null): PortRef {
    const { taps } = this.context.document
    const tap = Object.hasOwn(taps, name) ? taps[name] : undefined
    if (!tap)
      throw new GristError(
        'reference-unknown',
        `There is no tap "${name}". There are: ${Object.keys(taps).join(', ') || 'none'}.`,
      )
    const reader = 'node' in tap && this.readsBackdrop.has(parsePort(tap.node).node) ? (position?.layer.id ?? '') : ''
    return this.context.once(`tap ${name} ${reader}`, `tap ${name}`, () => this.tapped(tap, position))
  }

  /** What a tap names. */
  tapped(tap: Tap, position: Position | null): PortRef {
    if ('node' in tap) return this.port(tap.node, position)
    const { builder } = this.context
    const at = this.context.positionOf(tap.layer)
    if ('mask' in tap) {
      const mask = this.context.mask(at.layer, at)
      if (!mask) return builder.constant(1)
      return builder.add('levels', { clamp: true }, { source: mask }).out('result')
    }
    return this.context.after(at.scope, at.index, this.context.channel(tap.channel)).value
  }

  port(address: string, position: Position | null): PortRef {
    const { node: id, port } = parsePort(address)
    const { nodes } = this.context.document
    const node = Object.hasOwn(nodes, id) ? nodes[id] : undefined
    if (!node) throw new GristError('reference-unknown', `There is no node "${id}".`)
    const reader = this.readsBackdrop.has(id) ? position : null
    const result = this.context.once(
      `node ${id} ${reader?.layer.id ?? ''}`,
      `node ${id}`,
      () => this.node(id, node, reader),
      { node: id },
    )
    return result(port)
  }

  private node(id: string, node: DocumentNode, position: Position | null): (port: string) => PortRef {
    const { builder, document } = this.context
    const inputs: Record<string, PortRef> = {}
    const lost = new Map<string, GristError>()
    for (const [name, from] of Object.entries(node.inputs ?? {}))
      this.context.attempt(
        () => void (inputs[name] = located({ parameter: name }, () => this.read(asSource(from), position))),
        (fault) => void lost.set(name, fault),
      )
    const definition = builder.registry.get(node.type)
    const params = (): Readonly<Record<string, unknown>> => {
      const now = this.context.document.nodes[id]!
      return definition ? upgradeParameters(definition, now) : (now.params ?? {})
    }
    const standIn = (fault: GristError) => (port: string) => this.standIn(node, inputs, port, fault)
    // What it cannot do without, and is wired to, but does not get: the fault is that of what should feed it.
    for (const [name, { whenUnconnected }] of Object.entries(definition?.inputs ?? {})) {
      const fault = whenUnconnected === undefined && lost.get(name)
      if (fault) return standIn(fault)
    }
    return this.context.attempt(() => {
      const failure = this.context.failure(id)
      if (failure) throw failure
      const { step, out } = builder.addChanging(node.type, params(), inputs, { document: document.name, node: id })
      this.context.bind(`node ${id}`, step, params)
      if (node.off) return (port) => this.passThrough(node.type, inputs, out(port))
      return (node.amount ?? 1) === 1 ? out : (port) => this.partly(id, node.type, inputs, out(port))
    }, standIn)
  }

  /** What an output of a node that is off carries: its first input of a fitting type, or nothing much. */
  private passThrough(type: string, inputs: Readonly<Record<string, PortRef>>, normally: PortRef): PortRef {
    const { builder } = this.context
    const to = typeOf(normally)
    const through = this.through(type, inputs, to)
    if (through) return through
    if (to === 'normal') return builder.add('flat-normal', {}, {}).out('normal')
    if (to === 'grey' || to === 'colour') return builder.convert(builder.constant(0.5), to)
    return normally
  }

  /**
   * What an output of a node carries that shows in part only: over what comes in. All of it where nothing fitting does, and of
   * IDs and vectors, which have no between.
   */
  private partly(id: string, type: string, inputs: Readonly<Record<string, PortRef>>, whole: PortRef): PortRef {
    const to = typeOf(whole)
    const base = to === 'id' || to === 'vector' ? null : this.through(type, inputs, to)
    if (!base) return whole
    const amount: Amount = { owner: `node ${id}`, now: () => this.context.document.nodes[id]?.amount ?? 1 }
    if (to === 'normal')
      return addWithAmount(this.context, 'combine-normals', { method: 'replace' }, amount, { base, detail: whole })
    return addWithAmount(this.context, 'blend', { mode: 'normal', encoding: 'srgb' }, amount, { base, source: whole })
  }

  /** What an output of a node that cannot be made carries: what comes in. Throws `fault` where nothing does. */
  private standIn(
    { type }: DocumentNode,
    inputs: Readonly<Record<string, PortRef>>,
    port: string,
    fault: GristError,
  ): PortRef {
    const definition = this.context.builder.registry.get(type)
    const to = definition?.outputs[port]?.type
    const through = definition && !to ? null : this.through(type, inputs, to === 'any' ? undefined : to)
    if (through) return through
    throw fault
  }

  /** The first input that can be made what is wanted, in the order of the node's ports; null where there is none. */
  private through(type: string, inputs: Readonly<Record<string, PortRef>>, to: PortType | undefined): PortRef | null {
    const { builder } = this.context
    for (const name of Object.keys(builder.registry.get(type)?.inputs ?? inputs)) {
      const ref = inputs[name]
      if (!ref) continue
      if (to === undefined || typeOf(ref) === to) return ref
      if (CONVERSIONS[`${typeOf(ref)}>${to}`]) return builder.convert(ref, to)
    }
    return null
  }

  /** The layer that a node reading the backdrop belongs to: the lowest one it feeds. */
  readerOf(id: string): Position | null {
    if (!this.readsBackdrop.has(id)) return null
    const { document } = this.context
    for (const layer of allLayers(document.layers)) {
      const cells = layer.kind === 'group' ? [] : Object.values(layer.cells)
      const sources = [...cells, ...layer.mask].map((user) => user.source)
      if (sources.some((source) => nodeReads(document, source, id))) return this.context.positionOf(layer.id)
    }
    return null
  }
}
