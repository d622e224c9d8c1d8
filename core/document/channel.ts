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
  /** It is made of other channels on their way out, by a port of a node whose inputs have their names; no layer writes to it. */
  readonly derived?: { readonly node: string; readonly port: string }
  /** Takes about as long to evaluate as all others together. */
  readonly isSlow?: true
  /** Names of the checks that are about this channel (core/checks/rules). */
  readonly checks?: readonly string[]
  readonly plausible?: Plausible
  /** Words for it in names of files, and words for it inverted. Common practice. */
  readonly fileWords?: readonly string[]
  readonly invertedFileWords?: readonly string[]
}

/** A channel that every material has. */
export interface FixedChannel extends Channel {
  /** Where it stands in lists. */
  readonly order: number
}
