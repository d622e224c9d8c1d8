import { GristError, located } from '../errors'
import type { Channel } from '../document/channels'
import { CHANNELS } from '../document/channels'
import type { Registry } from '../graph/define-node'
import type {
  Cell,
  DocumentNode,
  Group,
  Layer,
  MaskEntry,
  MaterialDocument,
  PlainLayer,
  Source,
} from '../document/document'
import { allLayers } from '../document/document'
import type { Graph, PortRef } from '../graph/graph'
import { GraphBuilder, sameRef, typeOf } from '../graph/graph'
import { hexToLinear } from '../colour/srgb'
import { asSource } from '../document/sources'
import { upgradeParameters } from '../graph/upgrade-parameters'
import { applyDials } from '../document/apply-dials'
import { nodesReadingBelow, reaches } from './reading-backdrop'

/** A run of layers: the whole sheet or the inside of a group. */
interface Scope {
  readonly layers: readonly Layer[]
  readonly group: Group | null
  readonly parent: Scope | null
  /** Index of the group in its parent. */
  readonly index: number
  /** Inside a closed group, coverage is carried along. */
  readonly isolated: boolean
}

/** A place in the sheet: what lies below is everything of `scope` under `index`. */
interface Position {
  readonly scope: Scope
  readonly index: number
  readonly layer: Layer
}

/** A channel at some height in the sheet; `coverage` is null outside closed groups, where all is covered. */
interface State {
  readonly value: PortRef
  readonly coverage: PortRef | null
}

/** What happens to channels on their way into a delivery. */
export interface Finish {
  /** How much base colour is sharpened at the size it is made, 0–1. */
  readonly sharpen?: number
}

/**
 * Turns a document into a graph that gives `outputs`.
 * An output is a channel ("height"), a node's port ("lay.distance"), a tap ("tap:wear"), a layer's result
 * ("layer:stone:height", "layer:stone:mask"), what a cell puts in ("cell:stone:height"), or one entry of a mask
 * ("entry:stone:0").
 * Throws GristError: reference-unknown, cycle (with the whole path), type-mismatch, parameter-invalid and others.
 */
export function expandDocument(
  document: MaterialDocument,
  registry: Registry,
  outputs: readonly string[],
  finish: Finish = {},
): Graph {
  const expansion = new Expansion(applyDials(document), registry, finish)
  return located({ document: document.name }, () => {
    const refs = new Map(outputs.map((output) => [output, expansion.output(output)]))
    return { steps: expansion.builder.steps, outputs: refs }
  })
}

/** A graph of what could be built, and why the rest could not. */
export interface PartialGraph extends Graph {
  readonly faults: ReadonlyMap<string, GristError>
}

/** As expandDocument, but an output that cannot be built is a fault of its own and takes no other with it. */
export function expandWhatFits(
  document: MaterialDocument,
  registry: Registry,
  outputs: readonly string[],
  finish: Finish = {},
): PartialGraph {
  const expansion = new Expansion(applyDials(document), registry, finish)
  const refs = new Map<string, PortRef>()
  const faults = new Map<string, GristError>()
  for (const output of outputs)
    try {
      refs.set(output, expansion.output(output))
    } catch (error) {
      if (!(error instanceof GristError)) throw error
      faults.set(output, error)
    }
  return { steps: expansion.builder.steps, outputs: refs, faults }
}

/** All channels of a document: the fixed ones, then its own by title, as a database keeps no order of members. */
export function channelsOf(document: Pick<MaterialDocument, 'channels'>): Channel[] {
  const own = Object.entries(document.channels).map(([id, { title, type, below }]): Channel => {
    const values = typeof below === 'string' ? hexToLinear(below) : [below]
    const planes = type === 'colour' ? [0, 1, 2].map((p) => values[p] ?? values[0]!) : [values[0]!]
    return { id, title: title ?? id, type, below: planes, transfer: type === 'colour' ? 'srgb' : 'raw', range: [0, 1] }
  })
  own.sort((a, b) => (a.title < b.title ? -1 : a.title > b.title ? 1 : a.id < b.id ? -1 : 1))
  return [...CHANNELS, ...own]
}

/**
 * The layer algebra of docs/FORMAT.md, in ordinary blend nodes.
 * Closed groups: W3C Compositing and Blending Level 1, section 5 (isolated groups), channel by channel.
 */
class Expansion {
  readonly builder: GraphBuilder
  private readonly channels: Map<string, Channel>
  private readonly positions = new Map<string, Position>()
  private readonly top: Scope
  private readonly memo = new Map<string, unknown>()
  private readonly path: string[] = []
  private readonly scopes = new Map<Group, Scope>()
  private readonly readsBelow: ReadonlySet<string>

  constructor(
    private readonly document: MaterialDocument,
    registry: Registry,
    private readonly finish: Finish,
  ) {
    const { seed, domain, heightMetres } = document
    this.builder = new GraphBuilder(registry, { seed, metres: domain.metres, heightMetres })
    this.channels = new Map(channelsOf(document).map((channel) => [channel.id, channel]))
    this.top = { layers: document.layers, group: null, parent: null, index: 0, isolated: false }
    this.place(this.top)
    this.readsBelow = nodesReadingBelow(document)
  }

  private place(scope: Scope): void {
    scope.layers.forEach((layer, index) => {
      this.positions.set(layer.id, { scope, index, layer })
      if (layer.kind !== 'group') return
      const isolated = layer.closed || scope.isolated
      const inner = { layers: layer.layers, group: layer, parent: scope, index, isolated }
      this.scopes.set(layer, inner)
      this.place(inner)
    })
  }

  output(name: string): PortRef {
    if (name.startsWith('tap:')) return this.tap(name.slice(4), null)
    if (name.startsWith('layer:')) {
      const [, layer = '', part = ''] = name.split(':')
      return this.tapped(part === 'mask' ? { layer, mask: true } : { layer, channel: part }, null)
    }
    if (name.startsWith('cell:')) return this.cellSource(name)
    if (name.startsWith('entry:')) return this.entrySource(name)
    if (name.includes('.')) return this.nodePort(name, this.contextOf(name))
    return this.finished(this.channel(name))
  }

  private positionOf(layer: string): Position {
    const at = this.positions.get(layer)
    if (!at) throw new GristError('reference-unknown', `There is no layer "${layer}".`)
    return at
  }

  private cellSource(name: string): PortRef {
    const [, id = '', channel = ''] = name.split(':')
    const position = this.positionOf(id)
    const cell = position.layer.kind === 'group' ? undefined : position.layer.cells[channel]
    if (!cell) throw new GristError('reference-unknown', `Layer "${id}" puts nothing into "${channel}".`)
    return located({ layer: id, parameter: channel }, () =>
      this.builder.convert(this.source(cell.source, position), this.channel(channel).type),
    )
  }

  private entrySource(name: string): PortRef {
    const [, id = '', index = ''] = name.split(':')
    const position = this.positionOf(id)
    const entry = position.layer.mask[Number(index)]
    if (!entry) throw new GristError('reference-unknown', `The mask of layer "${id}" has no entry ${index}.`)
    return located({ layer: id }, () => this.maskSource(entry, position))
  }

  private channel(id: string): Channel {
    const channel = this.channels.get(id)
    if (channel) return channel
    throw new GristError(
      'reference-unknown',
      `There is no channel "${id}". There are: ${[...this.channels.keys()].join(', ')}.`,
    )
  }

  /** Base colour sharpened against its neighbours and held to 0–1, as what goes beyond cannot be in a file. */
  private finished(channel: Channel): PortRef {
    const own = this.composed(channel)
    const amount = this.finish.sharpen ?? 0
    if (channel.id !== 'colour' || amount === 0 || own.step.uniform) return own
    const crisp = this.builder.add('sharpen', { method: 'neighbours', amount }, { source: own })('result')
    return this.builder.add('levels', { clamp: true }, { source: crisp })('result')
  }

  /** A channel as it leaves the material: normal and occlusion take the composed height in. */
  private composed(channel: Channel): PortRef {
    const own = this.after(this.top, this.top.layers.length - 1, channel).value
    if (channel.id !== 'normal' && channel.id !== 'occlusion') return own
    const heightChannel = this.channel('height')
    const height = this.after(this.top, this.top.layers.length - 1, heightChannel).value
    if (sameRef(height, this.bottom(heightChannel)) || height.step.uniform) return own
    const untouched = sameRef(own, this.bottom(channel))
    if (channel.id === 'normal') {
      const slopes = this.builder.add('height-to-normal', {}, { height })('normal')
      return untouched ? slopes : this.builder.add('combine-normals', {}, { base: slopes, detail: own })('result')
    }
    const { radiusMetres, strength } = this.document.occlusion
    const open = this.builder.add('height-to-occlusion', { radius: radiusMetres, strength }, { height })('occlusion')
    return untouched ? open : this.builder.add('blend', { mode: 'multiply' }, { base: own, source: open })('result')
  }

  /** What lies below the lowest layer. */
  private bottom(channel: Channel): PortRef {
    if (channel.type === 'normal') return this.builder.add('flat-normal', {}, {})('normal')
    const own = this.document.channels[channel.id]
    const value = this.builder.constant(own ? own.below : channel.below[0]!)
    return this.builder.convert(value, channel.type)
  }

  /** Runs `work` once for `key`; entering it again while it runs is a cycle. */
  private once<T>(key: string, label: string, work: () => T): T {
    const known = this.memo.get(key)
    if (known !== undefined) return known as T
    const at = this.path.indexOf(label)
    if (at >= 0)
      throw new GristError(
        'cycle',
        `These feed each other in a circle: ${[...this.path.slice(at), label].join(' → ')}. Take one link away.`,
      )
    this.path.push(label)
    try {
      const result = work()
      this.memo.set(key, result)
      return result
    } finally {
      this.path.pop()
    }
  }

  /** A channel after layer `index` of a scope; −1 is what the scope starts from. */
  private after(scope: Scope, index: number, channel: Channel): State {
    // From the bottom up, so that tall sheets do not nest calls.
    let state = this.start(scope, channel)
    for (let i = 0; i <= index; i++) {
      const layer = scope.layers[i]!
      const below = state
      const label = `layer ${layer.id}, ${channel.id}`
      state = this.once(`after ${layer.id} ${channel.id}`, label, () =>
        located({ layer: layer.id }, () => this.layerOver(scope, i, layer, channel, below)),
      )
    }
    return state
  }

  private start(scope: Scope, channel: Channel): State {
    if (!scope.group) return { value: this.bottom(channel), coverage: null }
    if (scope.group.closed) return { value: this.bottom(channel), coverage: this.builder.constant(0) }
    return this.after(scope.parent!, scope.index - 1, channel)
  }

  private layerOver(scope: Scope, index: number, layer: Layer, channel: Channel, below: State): State {
    if (layer.off) return below
    if (layer.kind === 'group') return this.groupOver(layer, scope, index, channel, below)
    const cell = layer.cells[channel.id]
    if (!cell || cell.off) return below
    const position = { scope, index, layer }
    const source = located({ parameter: channel.id }, () =>
      this.builder.convert(this.source(cell.source, position), channel.type),
    )
    const mask = this.mask(layer, position)
    const amount = layer.amount * cell.amount
    if (!below.coverage || layer.kind === 'correction')
      return { value: this.mix(channel, cell, below.value, source, mask, amount), coverage: below.coverage }
    // W3C section 5.1: αo = αb + w(1 − αb); Cs' = (1 − αb)·Cs + αb·B(Cb, Cs); Co = Cb + (w/αo)(Cs' − Cb).
    const one = this.builder.constant(1)
    const union = this.builder.add('blend', { amount }, { base: below.coverage, source: one, mask })('result')
    const blended = this.mix(channel, cell, below.value, source, undefined, 1)
    const own = sameRef(blended, source)
      ? source
      : this.mix(channel, plainCell(cell), source, blended, below.coverage, 1)
    const share = this.builder.add('coverage-share', { amount }, { mask, union })('result')
    return { value: this.mix(channel, plainCell(cell), below.value, own, share, 1), coverage: union }
  }

  private groupOver(group: Group, scope: Scope, index: number, channel: Channel, below: State): State {
    const inner = this.scopes.get(group)!
    const inside = this.after(inner, group.layers.length - 1, channel)
    if (sameRef(inside.value, below.value) && !group.closed) return below
    if (group.closed && !group.layers.some((layer) => writes(layer, channel.id))) return below
    const mask = this.mask(group, { scope, index, layer: group })
    const { amount } = group
    const covered = inside.coverage
    if (!covered) return { value: this.mix(channel, PLAIN, below.value, inside.value, mask, amount), coverage: null }
    const weight = group.closed && mask ? this.multiply(covered, mask) : covered
    if (!below.coverage)
      return { value: this.mix(channel, PLAIN, below.value, inside.value, weight, amount), coverage: null }
    const union = group.closed
      ? this.builder.add(
          'blend',
          { amount },
          { base: below.coverage, source: this.builder.constant(1), mask: weight },
        )('result')
      : this.builder.add('blend', { amount }, { base: below.coverage, source: covered, mask })('result')
    const share = this.builder.add('coverage-share', { amount }, { mask, coverage: covered, union })('result')
    return { value: this.mix(channel, PLAIN, below.value, inside.value, share, 1), coverage: union }
  }

  private multiply(base: PortRef, source: PortRef): PortRef {
    return this.builder.add('blend', { mode: 'multiply' }, { base, source })('result')
  }

  /** mix(below, mode(below, source), mask · amount) in the mode's encoding. */
  private mix(
    channel: Channel,
    cell: Pick<Cell, 'blend' | 'encoding'>,
    base: PortRef,
    source: PortRef,
    mask: PortRef | undefined,
    amount: number,
  ): PortRef {
    const { blend, encoding } = cell
    if (amount === 0) return base
    const whole = amount === 1 && !mask
    if (channel.type === 'normal') {
      if (!['normal', 'replace', 'combine'].includes(blend))
        throw new GristError('parameter-invalid', `The normal channel takes "replace" or "combine", not "${blend}".`, {
          parameter: 'blend',
        })
      const method = blend === 'combine' ? 'reoriented' : 'replace'
      if (whole && method === 'replace') return source
      return this.builder.add('combine-normals', { method, amount }, { base, detail: source, mask })('result')
    }
    if (blend === 'replace' || blend === 'combine')
      throw new GristError('parameter-invalid', `"${blend}" is for the normal channel only.`, { parameter: 'blend' })
    if (whole && blend === 'normal') return source
    return this.builder.add('blend', { mode: blend, amount, encoding }, { base, source, mask })('result')
  }

  /** The mask stack of a layer; undefined where it has none, that is 1 everywhere. Clamped where it is used. */
  private mask(layer: Layer, position: Position): PortRef | undefined {
    const entries = layer.mask.filter((entry) => !entry.off)
    if (entries.length === 0) return undefined
    return this.once(`mask ${layer.id}`, `mask of layer ${layer.id}`, () => {
      const sources = entries.map((entry) => this.maskSource(entry, position))
      const [first] = entries
      if (entries.length === 1 && first!.amount === 1 && (first!.mode === 'multiply' || first!.mode === 'normal'))
        return sources[0]!
      return entries.reduce((m, { mode, amount }, i) => {
        return this.builder.add('blend', { mode, amount }, { base: m, source: sources[i]! })('result')
      }, this.builder.constant(1))
    })
  }

  private maskSource(entry: MaskEntry, position: Position): PortRef {
    const grey = located({ parameter: 'mask' }, () => this.builder.convert(this.source(entry.source, position), 'grey'))
    return entry.invert ? this.builder.add('invert', {}, { source: grey })('result') : grey
  }

  private source(source: Source, position: Position | null): PortRef {
    if ('value' in source) return this.builder.constant(source.value)
    if ('node' in source) return this.nodePort(source.node, position)
    if ('tap' in source) return this.tap(source.tap, position)
    return this.below(source.below, position)
  }

  private below(id: string, position: Position | null): PortRef {
    const channel = this.channel(id)
    if (!position || position.layer.kind !== 'correction')
      throw new GristError('reference-unknown', `"below" can be read by a correction only; this is not fed by one.`)
    return this.after(position.scope, position.index - 1, channel).value
  }

  private tap(name: string, position: Position | null): PortRef {
    const tap = this.document.taps[name]
    if (!tap || !Object.hasOwn(this.document.taps, name))
      throw new GristError(
        'reference-unknown',
        `There is no tap "${name}". There are: ${Object.keys(this.document.taps).join(', ') || 'none'}.`,
      )
    return this.once(`tap ${name} ${this.contextKey(tap, position)}`, `tap ${name}`, () => this.tapped(tap, position))
  }

  private contextKey(tap: object, position: Position | null): string {
    return 'node' in tap && this.readsBelow.has(String(tap.node).split('.')[0]!) ? (position?.layer.id ?? '') : ''
  }

  private tapped(tap: MaterialDocument['taps'][string], position: Position | null): PortRef {
    if ('node' in tap) return this.nodePort(tap.node, position)
    const at = this.positionOf(tap.layer)
    if ('mask' in tap) {
      const mask = this.mask(at.layer, at)
      return mask ? this.builder.add('levels', { clamp: true }, { source: mask })('result') : this.builder.constant(1)
    }
    return this.after(at.scope, at.index, this.channel(tap.channel)).value
  }

  private nodePort(address: string, position: Position | null): PortRef {
    const [id = '', port = ''] = address.split('.')
    const node = Object.hasOwn(this.document.nodes, id) ? this.document.nodes[id] : undefined
    if (!node) throw new GristError('reference-unknown', `There is no node "${id}".`)
    const context = this.readsBelow.has(id) ? position : null
    const result = this.once(`node ${id} ${context?.layer.id ?? ''}`, `node ${id}`, () =>
      located({ node: id }, () => this.node(id, node, context)),
    )
    return result(port)
  }

  private node(id: string, node: DocumentNode, position: Position | null): (port: string) => PortRef {
    const inputs: Record<string, PortRef> = {}
    for (const [name, from] of Object.entries(node.inputs ?? {}))
      inputs[name] = located({ parameter: name }, () => this.source(asSource(from), position))
    const definition = this.builder.registry.get(node.type)
    const params = definition ? upgradeParameters(definition, node) : (node.params ?? {})
    const result = this.builder.add(node.type, params, inputs, { document: this.document.name, node: id })
    return node.off ? (port) => this.passThrough(node.type, inputs, result(port)) : result
  }

  /** What an output of a node that is off carries: its first input of a fitting type, or nothing much. */
  private passThrough(type: string, inputs: Record<string, PortRef>, normally: PortRef): PortRef {
    const to = typeOf(normally)
    const ports = Object.keys(this.builder.registry.get(type)!.inputs)
    const first = ports.map((name) => inputs[name]).find((ref) => ref !== undefined)
    if (first) return this.builder.convert(first, to)
    if (to === 'normal') return this.builder.add('flat-normal', {}, {})('normal')
    if (to === 'grey' || to === 'colour') return this.builder.convert(this.builder.constant(0.5), to)
    return normally
  }

  /** The correction that a node reading `below` belongs to: the lowest one it feeds. */
  private contextOf(address: string): Position | null {
    const id = address.split('.')[0]!
    if (!this.readsBelow.has(id)) return null
    for (const layer of allLayers(this.document.layers)) {
      if (layer.kind !== 'correction') continue
      const sources = [...Object.values(layer.cells), ...layer.mask].map((user) => user.source)
      if (sources.some((source) => reaches(this.document, source, id))) return this.positions.get(layer.id)!
    }
    return null
  }
}

const PLAIN: Pick<Cell, 'blend' | 'encoding'> = { blend: 'normal', encoding: 'srgb' }
const plainCell = (cell: Cell): Pick<Cell, 'blend' | 'encoding'> => ({ blend: 'normal', encoding: cell.encoding })

const writes = (layer: Layer, channel: string): boolean => {
  if (layer.off) return false
  if (layer.kind === 'group') return layer.layers.some((one) => writes(one, channel))
  const cell = (layer as PlainLayer).cells[channel]
  return layer.kind === 'layer' && cell !== undefined && !cell.off
}
