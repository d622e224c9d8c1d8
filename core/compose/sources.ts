import { parsePort } from '../document/address'
import type { DocumentNode, Source, Tap } from '../document/document'
import { allLayers } from '../document/document'
import { asSource } from '../document/sources'
import { GristError, located } from '../errors'
import type { PortRef } from '../graph/graph'
import { constantParams, typeOf } from '../graph/graph'
import { upgradeParameters } from '../graph/upgrade-parameters'
import { nodeReads } from './backdrop'
import type { Context, Position } from './context'

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
    if (!position || position.layer.kind !== 'correction')
      throw new GristError(
        'reference-unknown',
        'What lies below can be read in a correction only, and this belongs to none.',
      )
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
    const result = this.context.once(`node ${id} ${reader?.layer.id ?? ''}`, `node ${id}`, () =>
      located({ node: id }, () => this.node(id, node, reader)),
    )
    return result(port)
  }

  private node(id: string, node: DocumentNode, position: Position | null): (port: string) => PortRef {
    const { builder, document } = this.context
    const inputs: Record<string, PortRef> = {}
    for (const [name, from] of Object.entries(node.inputs ?? {}))
      inputs[name] = located({ parameter: name }, () => this.read(asSource(from), position))
    const definition = builder.registry.get(node.type)
    const params = (): Readonly<Record<string, unknown>> => {
      const now = this.context.document.nodes[id]!
      return definition ? upgradeParameters(definition, now) : (now.params ?? {})
    }
    const { step, out } = builder.addChanging(node.type, params(), inputs, { document: document.name, node: id })
    this.context.bind(`node ${id}`, step, params)
    return node.off ? (port) => this.passThrough(node.type, inputs, out(port)) : out
  }

  /** What an output of a node that is off carries: its first input of a fitting type, or nothing much. */
  private passThrough(type: string, inputs: Readonly<Record<string, PortRef>>, normally: PortRef): PortRef {
    const { builder } = this.context
    const to = typeOf(normally)
    const ports = Object.keys(builder.registry.get(type)!.inputs)
    const first = ports.map((name) => inputs[name]).find((ref) => ref !== undefined)
    if (first) return builder.convert(first, to)
    if (to === 'normal') return builder.add('flat-normal', {}, {}).out('normal')
    if (to === 'grey' || to === 'colour') return builder.convert(builder.constant(0.5), to)
    return normally
  }

  /** The correction that a node reading the backdrop belongs to: the lowest one it feeds. */
  readerOf(id: string): Position | null {
    if (!this.readsBackdrop.has(id)) return null
    const { document } = this.context
    for (const layer of allLayers(document.layers)) {
      if (layer.kind !== 'correction') continue
      const sources = [...Object.values(layer.cells), ...layer.mask].map((user) => user.source)
      if (sources.some((source) => nodeReads(document, source, id))) return this.context.positionOf(layer.id)
    }
    return null
  }
}
