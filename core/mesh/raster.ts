import { drawTriangles } from '../kernels/draw-triangles'
import type { Room } from '../kernels/baking-room'
import { ownRoom } from '../kernels/baking-room'

/** Where on a part's surface the texels of some rows are sampled. */
export interface TexelSamples {
  /** Texel of each sample, counted from the first of the rows; in order. */
  readonly texels: Uint32Array
  /** Triangle of each sample, counted from the part's first. */
  readonly triangles: Uint32Array
  /** Weights of the triangle's second and third corner, two a sample. */
  readonly weights: Float32Array
}

/** Samples a texel that there can be. */
export const SAMPLE_COUNTS = [1, 4, 16] as const
export type SampleCount = (typeof SAMPLE_COUNTS)[number]

/**
 * Places of samples in a texel, two numbers each, 0–1: its middle; four turned by about 27°, no two in one row or column; a 4 × 4 of
 * such. Fixed, so that a bake repeats.
 */
export function samplePattern(count: SampleCount): readonly number[] {
  if (count === 1) return [0.5, 0.5]
  const four = [0.375, 0.125, 0.875, 0.375, 0.125, 0.625, 0.625, 0.875]
  if (count === 4) return four
  return Array.from({ length: 16 }, (_, i) => {
    const [cell, own] = [i >> 2, i & 3]
    return [((cell & 1) + four[own * 2]!) / 2, ((cell >> 1) + four[own * 2 + 1]!) / 2]
  }).flat()
}

/** A picture that a tile of UVs is drawn into: `left` and `top` are the tile's place (0, 0 is 1001). */
export interface RasterTarget {
  readonly width: number
  readonly height: number
  readonly left: number
  readonly top: number
}

/** Numbers a triangle: the weights of its second and third corner at a place x, y are 0 + 1·x + 2·y and 3 + 4·x + 5·y. */
const LINEAR = 6

/** Samples of a part in a tile, whose corners lie at `corners` (u, v of each, six numbers a triangle). */
export class TileRaster {
  /** Corners in texels of the tile. */
  readonly places: Float64Array
  readonly linear: Float64Array
  /** First and last row that each triangle touches; none where it has no area or lies elsewhere. */
  readonly rows: Int32Array
  protected readonly pattern: readonly number[]

  constructor(
    corners: Float64Array,
    protected readonly target: RasterTarget,
    count: SampleCount,
  ) {
    const { width, height, left, top } = target
    this.pattern = samplePattern(count)
    const triangles = corners.length / 6
    const c = (this.places = new Float64Array(corners.length))
    this.linear = new Float64Array(triangles * LINEAR)
    this.rows = new Int32Array(triangles * 2).fill(-1)
    for (let i = 0; i < corners.length; i += 2) {
      c[i] = (corners[i]! - left) * width
      c[i + 1] = (corners[i + 1]! - top) * height
    }
    for (let t = 0; t < triangles; t++) {
      const i = t * 6
      const [x, y] = [c[i]!, c[i + 1]!]
      const [ux, uy, vx, vy] = [c[i + 2]! - x, c[i + 3]! - y, c[i + 4]! - x, c[i + 5]! - y]
      const area = ux * vy - uy * vx
      const [x0, x1] = [Math.min(x, c[i + 2]!, c[i + 4]!), Math.max(x, c[i + 2]!, c[i + 4]!)]
      const [y0, y1] = [Math.min(y, c[i + 3]!, c[i + 5]!), Math.max(y, c[i + 3]!, c[i + 5]!)]
      if (area === 0 || x1 < 0 || x0 >= width || y1 < 0 || y0 >= height) continue
      this.rows[t * 2] = Math.max(0, Math.floor(y0))
      this.rows[t * 2 + 1] = Math.min(height - 1, Math.floor(y1))
      const [bx, by, dx, dy] = [vy / area, -vx / area, -uy / area, ux / area]
      this.linear.set([-(x * bx + y * by), bx, by, -(x * dx + y * dy), dx, dy], t * LINEAR)
    }
  }

  /**
   * Samples of rows `from` to `to`. Where triangles lie over one another the first in the file counts. A texel that is touched without a
   * sample in it gets one: the surface nearest to its middle.
   */
  between(from: number, to: number, room: Room = ownRoom): TexelSamples {
    return drawTriangles(this, this.pattern, this.target.width, [from, to], room)
  }
}
