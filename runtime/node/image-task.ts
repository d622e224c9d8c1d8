import type { RasterImage } from '#core/field/pyramid'
import type { RasterShape } from '#core/field/raster'
import type { MapDifference } from '#core/texture/compare'
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
    /** A small PNG of it. */
    | { readonly kind: 'thumbnail' }
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

export type ImageResult = RasterImage | Uint8Array | LibraryImage | MapComparison

/** An image as the library keeps it: its shape, how many bytes its texels take, and a small PNG. */
export interface LibraryImage extends RasterShape {
  readonly rasterBytes: number
  readonly thumbnail: Uint8Array
}

/** What two files differ in, and PNGs of it and of both. */
export interface MapComparison extends MapDifference {
  readonly pictures: { readonly difference: Uint8Array; readonly before: Uint8Array; readonly after: Uint8Array }
}
