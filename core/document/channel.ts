import type { PortType } from '../field/field'

/** A stretch of values that real surfaces keep to, in the numbers a file holds (0–1; colours sRGB-encoded). */
export interface PlausibleRange {
  readonly from: number
  readonly to: number
  readonly word: string
}

/** What real surfaces keep to. `metals` holds instead where the channel `metalIn` says metal. */
export interface Plausible {
  readonly ranges: readonly PlausibleRange[]
  readonly metals?: PlausibleRange
  readonly metalIn?: string
}

/**
 * One channel of a material and all that its numbers mean: one file in channels/ for each that every material has; those of a
 * material's own are plain.
 */
export interface Channel {
  readonly id: string
  readonly title: string
  readonly type: Extract<PortType, 'grey' | 'colour' | 'normal'>
  /** What lies below the lowest layer: a value a plane; colours in linear light. */
  readonly backdrop: readonly number[]
  /** How files of whole steps store it: colours sRGB-encoded, everything else as it is. */
  readonly transfer: 'srgb' | 'raw'
  /** Values a delivery is expected to keep to. */
  readonly range: readonly [number, number]
  /** A name for narrow places. */
  readonly short?: string
  /** Its unit grey with 0.5 at the surface is a height: float files hold metres, from 0 at the surface. */
  readonly isHeight?: true
  /** What the composed height adds to it on its way out. */
  readonly takesHeight?: 'slopes' | 'openness'
  /** What its mips keep besides their mean: the share that a cut-out shows, or the highlight that lost normals spread. */
  readonly mipsKeep?: 'coverage' | 'highlight'
  /** May be sharpened on its way out. */
  readonly sharpens?: true
  /** It is made of other channels on their way out; no layer writes to it. */
  readonly derived?: Derivation
  /** Takes about as long to evaluate as all others together. */
  readonly isSlow?: true
  /** Names of the checks that are about this channel (core/checks/rules). */
  readonly checks?: readonly string[]
  readonly plausible?: Plausible
  /** Words for it in names of files, and words for it inverted. Common practice. */
  readonly fileWords?: readonly string[]
  readonly invertedFileWords?: readonly string[]
}

/** How a channel is made of others: by a port of a node. */
export interface Derivation {
  readonly node: string
  readonly port: string
  /** Channels that its inputs take, where those are not called like them; optional ones that a material lacks leave theirs open. */
  readonly takes?: Readonly<Record<string, string>>
  /** Optional channels that are taken of mesh data, on a part, where the material lacks them. */
  readonly bakes?: readonly string[]
  /** Its node reads mesh data: only materials for parts have it. */
  readonly onPart?: true
}

/** What optional channels are for, in the order of lists. */
export const CHANNEL_USES = ['older renderers', 'strands', 'detail'] as const

/**
 * A channel that a material may have of its own and that is known by its id: to packings, to what is made of it, to the stage. One file in
 * optional/ for each.
 */
export interface OptionalChannel {
  readonly id: string
  readonly title: string
  readonly use: (typeof CHANNEL_USES)[number]
  readonly help: string
  /** What lies below the lowest layer, and what stands for it in a material without it. All are grey. */
  readonly backdrop: number
  /** Values that are usual. */
  readonly usual?: readonly [number, number]
  /** On a part it is this port of a node that reads mesh data, while no layer writes to it. */
  readonly onPart?: {
    readonly data: string
    readonly node: string
    readonly params: Readonly<Record<string, unknown>>
    readonly port: string
  }
}

/** A channel that every material has. */
export interface FixedChannel extends Channel {
  /** Where it stands in lists. */
  readonly order: number
}
