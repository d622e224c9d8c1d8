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

/**
 * Samples of rows `from` to `to` of a part whose corners lie at `corners` (u, v of each, six numbers a triangle). Where triangles lie
 * over one another the first in the file counts. A texel that is touched without a sample in it gets one: the surface nearest to its
 * middle.
 */
export function rasterRows(
  corners: Float64Array,
  { width, height, left, top }: RasterTarget,
  from: number,
  to: number,
  count: SampleCount,
): TexelSamples {
  const pattern = samplePattern(count)
  const texels = (to - from) * width
  const owner = new Int32Array(texels * count).fill(-1)
  const nearest = new Int32Array(texels).fill(-1)
  const distance = new Float64Array(texels)
  const c = new Float64Array(6)
  const triangles = corners.length / 6
  for (let t = 0; t < triangles; t++) {
    for (let k = 0; k < 6; k += 2) {
      c[k] = (corners[t * 6 + k]! - left) * width
      c[k + 1] = (corners[t * 6 + k + 1]! - top) * height
    }
    const y0 = Math.max(from, Math.floor(Math.min(c[1]!, c[3]!, c[5]!)))
    const y1 = Math.min(to - 1, Math.floor(Math.max(c[1]!, c[3]!, c[5]!)))
    if (y0 > y1) continue
    const x0 = Math.max(0, Math.floor(Math.min(c[0]!, c[2]!, c[4]!)))
    const x1 = Math.min(width - 1, Math.floor(Math.max(c[0]!, c[2]!, c[4]!)))
    const area = (c[2]! - c[0]!) * (c[5]! - c[1]!) - (c[3]! - c[1]!) * (c[4]! - c[0]!)
    if (area === 0) continue
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        const texel = (y - from) * width + x
        let inside = false
        for (let s = 0; s < count; s++) {
          const [u, v] = [x + pattern[s * 2]!, y + pattern[s * 2 + 1]!]
          const b = weight(c, area, u, v, 2)
          const d = weight(c, area, u, v, 4)
          if (b < 0 || d < 0 || b + d > 1) continue
          inside = true
          if (owner[texel * count + s]! < 0) owner[texel * count + s] = t
        }
        if (inside || !touches(c, x, y)) continue
        const away = distanceOf(c, area, x + 0.5, y + 0.5)
        if (nearest[texel]! < 0 || away < distance[texel]!) {
          nearest[texel] = t
          distance[texel] = away
        }
      }
  }
  return collected(corners, { width, height, left, top }, from, count, pattern, owner, nearest)
}

/** Weight of the corner at `k` (2: second, 4: third) of a place. */
function weight(c: Float64Array, area: number, u: number, v: number, k: 2 | 4): number {
  const [x, y] = [u - c[0]!, v - c[1]!]
  return k === 2
    ? (x * (c[5]! - c[1]!) - y * (c[4]! - c[0]!)) / area
    : (y * (c[2]! - c[0]!) - x * (c[3]! - c[1]!)) / area
}

/** Whether a triangle has a point in the texel: by separating axes; the box of the triangle touches it already. */
function touches(c: Float64Array, x: number, y: number): boolean {
  for (let e = 0; e < 6; e += 2) {
    const next = (e + 2) % 6
    const [nx, ny] = [c[next + 1]! - c[e + 1]!, c[e]! - c[next]!]
    const at = (u: number, v: number): number => nx * (u - c[e]!) + ny * (v - c[e + 1]!)
    const third = at(c[(e + 4) % 6]!, c[((e + 4) % 6) + 1]!)
    const sides = [at(x, y), at(x + 1, y), at(x, y + 1), at(x + 1, y + 1)]
    if (third > 0 ? sides.every((v) => v < 0) : sides.every((v) => v > 0)) return false
  }
  return true
}

/** Squared distance of a place from a triangle that it is not in. */
function distanceOf(c: Float64Array, area: number, u: number, v: number): number {
  const [x, y] = nearestPlace(c, area, u, v)
  return (x - u) ** 2 + (y - v) ** 2
}

/** The place of a triangle that is nearest to another. */
function nearestPlace(c: Float64Array, area: number, u: number, v: number): [number, number] {
  const b = weight(c, area, u, v, 2)
  const d = weight(c, area, u, v, 4)
  if (b >= 0 && d >= 0 && b + d <= 1) return [u, v]
  let best: [number, number] = [c[0]!, c[1]!]
  let min = Infinity
  for (let e = 0; e < 6; e += 2) {
    const next = (e + 2) % 6
    const [dx, dy] = [c[next]! - c[e]!, c[next + 1]! - c[e + 1]!]
    const length = dx * dx + dy * dy
    const along = length > 0 ? Math.min(1, Math.max(0, ((u - c[e]!) * dx + (v - c[e + 1]!) * dy) / length)) : 0
    const [x, y] = [c[e]! + along * dx, c[e + 1]! + along * dy]
    const away = (x - u) ** 2 + (y - v) ** 2
    if (away < min) {
      min = away
      best = [x, y]
    }
  }
  return best
}

function collected(
  corners: Float64Array,
  { width, height, left, top }: RasterTarget,
  from: number,
  count: SampleCount,
  pattern: readonly number[],
  owner: Int32Array,
  nearest: Int32Array,
): TexelSamples {
  const texels: number[] = []
  const triangles: number[] = []
  const weights: number[] = []
  const c = new Float64Array(6)
  const add = (texel: number, t: number, u: number, v: number, move: boolean): void => {
    for (let k = 0; k < 6; k += 2) {
      c[k] = (corners[t * 6 + k]! - left) * width
      c[k + 1] = (corners[t * 6 + k + 1]! - top) * height
    }
    const area = (c[2]! - c[0]!) * (c[5]! - c[1]!) - (c[3]! - c[1]!) * (c[4]! - c[0]!)
    const [x, y] = move ? nearestPlace(c, area, u, v) : [u, v]
    texels.push(texel)
    triangles.push(t)
    weights.push(weight(c, area, x, y, 2), weight(c, area, x, y, 4))
  }
  for (let texel = 0; texel < nearest.length; texel++) {
    const [x, y] = [texel % width, from + Math.floor(texel / width)]
    let any = false
    for (let s = 0; s < count; s++) {
      const t = owner[texel * count + s]!
      if (t < 0) continue
      any = true
      add(texel, t, x + pattern[s * 2]!, y + pattern[s * 2 + 1]!, false)
    }
    if (!any && nearest[texel]! >= 0) add(texel, nearest[texel]!, x + 0.5, y + 0.5, true)
  }
  return {
    texels: Uint32Array.from(texels),
    triangles: Uint32Array.from(triangles),
    weights: Float32Array.from(weights),
  }
}
