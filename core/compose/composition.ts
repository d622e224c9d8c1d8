import { applyDials } from '../document/apply-dials'
import type { Output } from '../document/address'
import { formatOutput } from '../document/address'
import type { Channel } from '../document/channels'
import { deliverableChannels } from '../document/channels'
import type { Layer, MaterialDocument, Source } from '../document/document'
import { metresOf, partOf } from '../document/domain'
import type { ErrorPlace } from '../errors'
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

const NONE: readonly GristError[] = []

/** An output with all that can be made of it, null where that is nothing, and what is wrong with the rest. */
export interface Found {
  readonly ref: PortRef | null
  readonly faults: readonly GristError[]
}

/**
 * A document as a graph of steps, built as outputs are asked for. What cannot be made is passed through or left out and noted,
 * so that a half-built part takes no picture away. A document that differs in numbers only keeps the graph:
 * `follow` gives the steps their new parameters.
 */
export class Composition implements Context {
  readonly builder: GraphBuilder
  private readonly channels: ReadonlyMap<string, Channel>
  private readonly positions = new Map<string, Position>()
  /** By group; the whole sheet is ''. */
  private readonly scopes = new Map<string, Scope>()
  private readonly memo = new Map<string, { readonly result: unknown; readonly faults: readonly GristError[] }>()
  private readonly path: string[] = []
  private readonly bound = new Map<Owner, { step: Step; params: () => Readonly<Record<string, unknown>> }[]>()
  private readonly refs = new Map<string, Found>()
  /** Faults of what is being made. */
  private faults: readonly GristError[] = NONE
  private readonly dialFaults: readonly GristError[]
  private isFaulty = false
  private readonly sources: Sources
  private applied: MaterialDocument

  /** `failed` are nodes that could not be evaluated, and why: they are done without. */
  constructor(
    document: MaterialDocument,
    registry: Registry,
    private readonly failed: ReadonlyMap<string, GristError> = new Map(),
  ) {
    const dialFaults: GristError[] = []
    this.applied = applyDials(document, (fault) => dialFaults.push(fault))
    this.dialFaults = dialFaults
    this.isFaulty = dialFaults.length > 0
    const { seed, heightMetres } = document
    const domain = { seed, heightMetres, metres: metresOf(document), part: partOf(document) }
    this.builder = new GraphBuilder(registry, domain)
    this.channels = new Map(deliverableChannels(document).map((channel) => [channel.id, channel]))
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

  /** Where an output is found that nothing is wrong with. Throws reference-unknown, cycle, type-mismatch, parameter-invalid and others. */
  ref(output: Output, options: OutputOptions = {}): PortRef {
    const { ref, faults } = this.find(output, options)
    if (ref && faults.length === 0) return ref
    throw faults[0]!
  }

  /** Where an output is found with all that can be made of it, and what is wrong with the rest. */
  find(output: Output, options: OutputOptions = {}): Found {
    const key = `${formatOutput(output)} ${JSON.stringify([options.sharpen ?? 0, options.bleeds ?? false])}`
    const known = this.refs.get(key)
    if (known) return known
    this.faults = this.dialFaults
    const ref = this.attempt(
      () => refOf(this, this.sources, output, options),
      () => null,
    )
    const place = { document: this.document.name }
    const found = { ref, faults: this.faults.map((fault) => fault.at(place)) }
    this.faults = NONE
    this.refs.set(key, found)
    return found
  }

  /**
   * Makes the graph that of another document, where the two differ in numbers only. False where it takes another graph:
   * this one is of no use then.
   */
  follow(next: MaterialDocument): boolean {
    // What is done without now may be there next time.
    if (this.isFaulty || this.builder.steps.length > MAX_STEPS) return false
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

  once<T>(key: string, label: string, work: () => T, place: ErrorPlace = {}): T {
    const known = this.memo.get(key)
    if (known) {
      for (const fault of known.faults) this.note(fault)
      return known.result as T
    }
    const at = this.path.indexOf(label)
    if (at >= 0)
      throw new GristError(
        'cycle',
        `These feed each other in a circle: ${[...this.path.slice(at), label].join(' → ')}. Take one link away.`,
      )
    this.path.push(label)
    const outer = this.faults
    this.faults = NONE
    try {
      const result = located(place, work)
      const faults = this.faults.map((fault) => fault.at(place))
      this.memo.set(key, { result, faults })
      this.faults = outer
      for (const fault of faults) this.note(fault)
      return result
    } catch (error) {
      const inner = this.faults
      this.faults = outer
      for (const fault of inner) this.note(fault.at(place))
      throw error
    } finally {
      this.path.pop()
    }
  }

  attempt<T>(work: () => T, without: (fault: GristError) => T): T {
    try {
      return work()
    } catch (error) {
      if (!(error instanceof GristError)) throw error
      this.note(error)
      return without(error)
    }
  }

  failure(node: string): GristError | undefined {
    return this.failed.get(node)
  }

  private note(fault: GristError): void {
    this.isFaulty = true
    const same = ({ detail, place: { node } }: GristError): boolean =>
      detail === fault.detail && node === fault.place.node
    if (!this.faults.some(same)) this.faults = [...this.faults, fault]
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
