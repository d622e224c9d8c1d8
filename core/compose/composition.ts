import { applyDials } from '../document/apply-dials'
import type { Output } from '../document/address'
import { formatOutput } from '../document/address'
import type { Channel } from '../document/channels'
import { channelsOf } from '../document/channels'
import type { Layer, MaterialDocument, Source } from '../document/document'
import { GristError, located } from '../errors'
import type { Graph, PortRef, Step } from '../graph/graph'
import { GraphBuilder } from '../graph/graph'
import type { Registry } from '../graph/registry'
import { nodesReadingBackdrop } from './backdrop'
import { changeBetween } from './change'
import type { Composed, Context, Owner, Position, Scope } from './context'
import { composeUpTo } from './layers'
import { composeMask } from './masks'
import type { OutputOptions } from './outputs'
import { refOf } from './outputs'
import { Sources } from './sources'

/** Steps beyond which what is no longer asked for is thrown away with the rest. */
const MAX_STEPS = 40_000

/**
 * A document as a graph of steps, built as outputs are asked for. A document that differs in numbers only keeps the graph:
 * `follow` gives the steps their new parameters.
 */
export class Composition implements Context {
  readonly builder: GraphBuilder
  private readonly channels: ReadonlyMap<string, Channel>
  private readonly positions = new Map<string, Position>()
  /** By group; the whole sheet is ''. */
  private readonly scopes = new Map<string, Scope>()
  private readonly memo = new Map<string, unknown>()
  private readonly path: string[] = []
  private readonly bound = new Map<Owner, { step: Step; params: () => Readonly<Record<string, unknown>> }[]>()
  private readonly refs = new Map<string, PortRef>()
  private readonly sources: Sources
  private applied: MaterialDocument

  /** Throws reference-unknown or parameter-invalid where a dial is at fault. */
  constructor(document: MaterialDocument, registry: Registry) {
    this.applied = located({ document: document.name }, () => applyDials(document))
    const { seed, domain, heightMetres } = document
    this.builder = new GraphBuilder(registry, { seed, metres: domain.metres, heightMetres })
    this.channels = new Map(channelsOf(document).map((channel) => [channel.id, channel]))
    const top: Scope = { layers: this.applied.layers, group: null, parent: null, index: 0, isolated: false }
    this.scopes.set('', top)
    this.placeAll(top)
    this.sources = new Sources(this, nodesReadingBackdrop(this.applied))
  }

  /** The document with its dials applied. */
  get document(): MaterialDocument {
    return this.applied
  }

  get graph(): Omit<Graph, 'outputs'> {
    const { domain, steps, same } = this.builder
    return { domain, steps, same }
  }

  /** Where an output is found. Throws reference-unknown, cycle, type-mismatch, parameter-invalid and others. */
  ref(output: Output, options: OutputOptions = {}): PortRef {
    const key = `${formatOutput(output)} ${options.sharpen ?? 0}`
    const known = this.refs.get(key)
    if (known) return known
    const ref = located({ document: this.document.name }, () => refOf(this, this.sources, output, options))
    this.refs.set(key, ref)
    return ref
  }

  /**
   * Makes the graph that of another document, where the two differ in numbers only. False where it takes another graph:
   * this one is of no use then.
   */
  follow(next: MaterialDocument): boolean {
    if (this.builder.steps.length > MAX_STEPS) return false
    try {
      const applied = applyDials(next)
      const change = changeBetween(this.applied, applied)
      if (!change) return false
      this.applied = applied
      if (change.layers.length > 0) this.placeAgain(this.scopes.get('')!, applied.layers)
      const owners: Owner[] = [
        ...change.nodes.map((id): Owner => `node ${id}`),
        ...change.layers.map((id): Owner => `layer ${id}`),
      ]
      for (const owner of owners)
        for (const { step, params } of this.bound.get(owner) ?? [])
          if (!this.builder.change(step, params())) return false
      this.builder.updateDigests()
      return true
    } catch (error) {
      // Another graph tells what is wrong, at the output that it is wrong with.
      if (error instanceof GristError) return false
      throw error
    }
  }

  channel(id: string): Channel {
    const channel = this.channels.get(id)
    if (channel) return channel
    throw new GristError(
      'reference-unknown',
      `There is no channel "${id}". There are: ${[...this.channels.keys()].join(', ')}.`,
    )
  }

  positionOf(layer: string): Position {
    const at = this.positions.get(layer)
    if (!at) throw new GristError('reference-unknown', `There is no layer "${layer}".`)
    return at
  }

  scopeOf(group: string): Scope {
    return this.scopes.get(group)!
  }

  source(source: Source, position: Position | null, now?: () => Source): PortRef {
    return this.sources.read(source, position, now)
  }

  after(scope: Scope, index: number, channel: Channel): Composed {
    return composeUpTo(this, scope, index, channel)
  }

  mask(layer: Layer, position: Position): PortRef | undefined {
    return composeMask(this, layer, position)
  }

  once<T>(key: string, label: string, work: () => T): T {
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

  bind(owner: Owner, step: Step, params: () => Readonly<Record<string, unknown>>): void {
    const list = this.bound.get(owner)
    if (list) list.push({ step, params })
    else this.bound.set(owner, [{ step, params }])
  }

  private placeAll(scope: Scope): void {
    scope.layers.forEach((layer, index) => {
      this.positions.set(layer.id, { scope, index, layer })
      if (layer.kind !== 'group') return
      const isolated = layer.closed || scope.isolated
      const inner = { layers: layer.layers, group: layer, parent: scope, index, isolated }
      this.scopes.set(layer.id, inner)
      this.placeAll(inner)
    })
  }

  /** The same places with the layers as they are now. */
  private placeAgain(scope: Scope, layers: readonly Layer[]): void {
    scope.layers = layers
    layers.forEach((layer, index) => {
      this.positions.set(layer.id, { scope, index, layer })
      if (layer.kind !== 'group') return
      const inner = this.scopes.get(layer.id)!
      inner.group = layer
      this.placeAgain(inner, layer.layers)
    })
  }
}
