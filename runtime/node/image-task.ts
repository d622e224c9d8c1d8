import type { RasterImage } from '#core/field/pyramid'
import type { RasterShape } from '#core/field/raster'
import type { Comparison } from '#core/texture/compare'
import type { MipRules } from '#core/texture/mips'

/** What the thread that reads images is asked for. */
export interface ImageTask {
  /** The file's bytes, or where it lies. */
  readonly source: Uint8Array | string
  /** What errors call it. */
  readonly file: string
  /** What is wanted of it. */
  readonly want:
    | { readonly kind: 'values' }
    /** Its texels as plain bytes, written to a file of their own. */
    | { readonly kind: 'library'; readonly raster: string }
    | ({ readonly kind: 'mip'; readonly level: number } & MipRules)
    | {
        readonly kind: 'comparison'
        readonly with: ComparedFile
        readonly rules: MipRules
        readonly gain: number | null
      }
}

/** The later of two files that are compared. */
export interface ComparedFile extends MipRules {
  readonly bytes: Uint8Array
  readonly file: string
}

export type ImageResult = RasterImage | LibraryImage | MapComparison

/** An image as the library keeps it: its shape, how many bytes its texels take, and a small PNG. */
export interface LibraryImage extends RasterShape {
  readonly rasterBytes: number
  readonly thumbnail: Uint8Array
}

/** How far two files are apart, at the size of the smaller and in the planes that both have, and PNGs of it. */
export interface MapComparison extends Comparison {
  readonly width: number
  readonly height: number
  /** How often the difference is amplified. */
  readonly gain: number
  /** Planes that only the later, and only the earlier file has. */
  readonly added: readonly string[]
  readonly removed: readonly string[]
  /** Width and height of the earlier and the later file. */
  readonly sizes: readonly (readonly [number, number])[]
  /** Whether the difference shown is that of alpha, as nothing else differs. */
  readonly ofAlpha: boolean
  readonly pictures: { readonly difference: Uint8Array; readonly before: Uint8Array; readonly after: Uint8Array }
}
