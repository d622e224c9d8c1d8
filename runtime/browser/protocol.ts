import type { RuleResult } from '#core/checks/check'
import type { Output } from '#core/document/address'
import type { MaterialDocument } from '#core/document/document'
import type { LayerAt } from '#core/document/layers-at'
import type { Patch } from '#core/document/patches'
import type { Sharpening } from '#core/document/sharpening'
import type { ErrorCode } from '#core/errors'
import type { PortType } from '#core/field/field'
import type { ChannelHistogram } from '#core/preview/channel-histograms'
import type { DisplayBytes } from '#core/preview/display'
import type { FileLoss } from '#core/texture/file-loss'
import type { Look } from '#core/preview/looks'
import type { Spread } from '#core/preview/histogram'
import type { StageOutput } from '#core/texture/stage-output'

/**
 * What a page and its coordinating worker tell each other. Documents were checked when they were opened; pictures are
 * handed over, not copied.
 */

/** The document being worked on, the two that a split may show in its left and right half, and the one that is packed. */
export type View = 'shown' | 'comparison' | 'versus' | 'packing'

/** Previews wider than this are made band by band, and only on the stage. */
export const LARGE = 2048

/** What a page takes with a large preview on its stage: bytes, or why it cannot have it. */
export type LargeForecast = { readonly bytes: number } | { readonly refusal: string }

/** A document as the worker gets it: whole, or as what changed since the version it has. */
export type DocumentUpdate =
  | { readonly version: number; readonly document: MaterialDocument }
  | { readonly version: number; readonly since: number; readonly patches: readonly Patch[] }

/** An answer to a request that was given up, or went wrong. `stale`: the worker lacks the version that patches go by. */
export interface Refusal {
  readonly error: string
  readonly cancelled: boolean
  readonly stale?: boolean
}

/** What a page wants of a document, at one width. */
export interface PreviewRequest {
  readonly update: DocumentUpdate
  readonly width: number
  /** An output seen unlit, if any. */
  readonly shown: Output | null
  /** What is laid over the lit material, loudly; null is nothing. */
  readonly overlay?: Output | null
  /** Whether the lit channels are wanted as textures. */
  readonly lit: boolean
  /** How they are lit, which takes channels of its own; absent is by base colour and metallic. */
  readonly look?: Look
  /** Outputs wanted small. */
  readonly swatches: readonly Output[]
  /** Layers whose mean colour is wanted; goes with `swatches`. */
  readonly layerColours: readonly string[]
  /** The outputs whose histograms are wanted. */
  readonly histograms: readonly Output[]
  /** The grey whose covered part they are about; null is the whole tile. */
  readonly within?: Output | null
  /** Channels left for a later pass, as they take long. What the page has of them stays. */
  readonly later?: readonly string[]
}

/** A texture, bottom row first. Height is half floats, everything else bytes. */
export interface TexturePicture {
  readonly key: string
  readonly width: number
  readonly height: number
  readonly pixels: Uint8ClampedArray<ArrayBuffer> | Uint16Array<ArrayBuffer>
}
export type TextureSlot =
  | 'colour'
  | 'normal'
  /** In place of it, in files that hold none but this. */
  | 'objectNormal'
  | 'surface'
  | 'occlusion'
  | 'height'
  | 'emission'
  | 'shown'
  | 'overlay'
  /** Of looks other than base colour and metallic. */
  | 'diffuse'
  | 'specular'
  | 'strands'
export type Textures = Partial<Record<TextureSlot, TexturePicture>>

/** A small picture; `mean` is that of its first plane. */
export interface SwatchPicture extends DisplayBytes {
  readonly key: string
  readonly mean: number
}

/** What is wrong with an output, and where the cause lies. */
export interface Fault {
  readonly code: ErrorCode
  readonly message: string
  /** Whether the output could not be made at all; else it was made without what is at fault. */
  readonly missing: boolean
  /** The node's input or parameter that it is about. */
  readonly parameter?: string
  readonly node?: string
  readonly layer?: string
  readonly dial?: string
}

/** What changed since the last answer about the same view. Outputs go by their texts (formatOutput). */
export interface Preview {
  readonly width: number
  readonly height: number
  readonly textures: Textures
  readonly swatches: Readonly<Record<string, SwatchPicture>>
  /** Mean colour by layer, "#rrggbb"; null where a layer has none. */
  readonly layerColours: Readonly<Record<string, string | null>>
  /** By output. */
  readonly histograms: Readonly<Record<string, Spread>>
  readonly faults: Readonly<Record<string, Fault>>
  /** Steps that were evaluated, and steps that were at hand. */
  readonly evaluated: number
  readonly reused: number
  readonly milliseconds: number
}
export type PreviewOutcome = { readonly preview: Preview } | Refusal

/** What a page wants to see of a packing, or of what was delivered. */
export interface PackRequest {
  readonly update: DocumentUpdate
  /** Width at which channels are evaluated. */
  readonly width: number
  readonly from:
    | { readonly packing: unknown; readonly sharpen: Sharpening; readonly dither: boolean }
    | { readonly delivery: string; readonly record: unknown }
  readonly want: PackingWanted | DeliveredWanted
}

/** Pictures of files and slots, and checks and histograms for files of a size. */
export interface PackingWanted {
  readonly kind: 'packing'
  readonly report: { readonly width: number; readonly height: number } | null
}

/** Textures of what an engine would see of the files, at a mip level. */
export interface DeliveredWanted {
  readonly kind: 'delivered'
  readonly mip: number
  /** Seen unlit; null is the lit material. */
  readonly shown: StageOutput | null
  /** In place of what the file holds, what is lost in it, amplified; of what is packed now. */
  readonly difference?: boolean
}

/** A file small: as its colours look, and each of its slots as a grey. */
export interface FilePictures {
  readonly whole: DisplayBytes
  readonly slots: readonly DisplayBytes[]
  /** What rounding, dither and compression take; null of files that were made before. */
  readonly loss: FileLoss | null
}

export interface PackingPreview {
  readonly kind: 'packing'
  readonly files: Readonly<Record<string, FilePictures>>
  readonly report: readonly RuleResult[] | null
  readonly histograms: readonly ChannelHistogram[] | null
}

export interface DeliveredPreview {
  readonly kind: 'delivered'
  readonly width: number
  readonly height: number
  readonly textures: Textures
  /** What the files are lit by. */
  readonly look: Look
  /** What is lost in the file that is shown; null where none is shown by itself, or it was made before. */
  readonly loss: FileLoss | null
  /** How often the difference is amplified that is shown; null where none is. */
  readonly gain: number | null
}

export type PackOutcome = { readonly packed: PackingPreview | DeliveredPreview } | Refusal

/** What lies at a place: layers, top first, and the value of what is shown there unlit. */
export interface PlaceFound {
  readonly layers: readonly LayerAt[]
  readonly shown: { readonly type: PortType; readonly values: readonly number[] } | null
}

/** A place asked about: u, v in tiles (v down), the channel whose layers are meant, the output that is shown unlit. */
export interface PlaceRequest {
  readonly u: number
  readonly v: number
  readonly width: number
  readonly channel: string
  readonly shown: Output | null
}

/** Values of a channel at a place. */
export interface ProbedValue {
  readonly channel: string
  readonly type: string
  readonly values: readonly number[]
}
