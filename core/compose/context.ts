import type { Channel } from '../document/channels'
import type { ErrorPlace, GristError } from '../errors'
import type { Group, Layer, MaterialDocument, Source } from '../document/document'
import type { GraphBuilder, PortRef, Step } from '../graph/graph'

/** A run of layers: the whole sheet or the inside of a group. `layers` and `group` follow changes of numbers. */
export interface Scope {
  layers: readonly Layer[]
  group: Group | null
  readonly parent: Scope | null
  /** Index of the group in its parent. */
  readonly index: number
  /** Inside a closed group, coverage is carried along. */
  readonly isolated: boolean
}

/** A place in the sheet: the backdrop is everything of `scope` under `index`. */
export interface Position {
  readonly scope: Scope
  readonly index: number
  readonly layer: Layer
}

/** A channel at some height in the sheet; `coverage` is null outside closed groups, where all is covered. */
export interface Composed {
  readonly value: PortRef
  readonly coverage: PortRef | null
}

/** Whose numbers a step's parameters come from. */
export type Owner = `node ${string}` | `layer ${string}`

/** What the parts of a composition share; composition.ts ties them together. */
export interface Context {
  /** As it stands now, dials applied. */
  readonly document: MaterialDocument
  readonly builder: GraphBuilder
  /** Throws reference-unknown, as the next three. */
  channel(id: string): Channel
  positionOf(layer: string): Position
  scopeOf(group: string): Scope
  /** What a source reads; `now` tells it again after numbers have changed. */
  source(source: Source, position: Position | null, now?: () => Source): PortRef
  /** A channel after layer `index` of a scope; −1 is what the scope starts from. */
  after(scope: Scope, index: number, channel: Channel): Composed
  /** The mask of a layer; undefined where it has none, that is 1 everywhere. Clamped where it is used. */
  mask(layer: Layer, position: Position): PortRef | undefined
  /**
   * Runs `work` once for `key`; entering it again while it runs is a cycle. What is at fault in it is at `place`. Throws cycle
   * with the whole path.
   */
  once<T>(key: string, label: string, work: () => T, place?: ErrorPlace): T
  /** Does `work`; where a fault of the document prevents it, notes the fault and does without, so that the rest is made. */
  attempt<T>(work: () => T, without: (fault: GristError) => T): T
  /** Why a node could not be evaluated; undefined where nothing is known against it. */
  failure(node: string): GristError | undefined
  /** A step whose parameters come from numbers of `owner`; `params` tells them as they stand. */
  bind(owner: Owner, step: Step, params: () => Readonly<Record<string, unknown>>): void
}
