import type { RasterImage } from '../field/pyramid'

/** What a plane holds within a region. */
export interface Spread {
  readonly mean: number
  /** Standard deviation. */
  readonly deviation: number
}

/** A region of an image of IDs or of a mask, and the spread of other planes in it. */
export interface RegionSpread {
  /** Its colour, as "#rrggbb". */
  readonly colour: string
  /** Ratio of all texels. */
  readonly ratio: number
  readonly spreads: readonly Spread[]
}

/** A plane of an image. */
export interface PlaneOfImage {
  readonly image: readonly RasterImage[]
  readonly plane: number
  readonly inverted: boolean
}

/** Smallest region that counts, as a ratio of all texels; and how many there may be. */
const [SMALLEST, MOST] = [0.005, 16]
/** Colours nearer than this, 0–1 a channel, are of one region. */
const NEAR = 0.08

/**
 * How even planes are within each region: of a grey image what is darker and what is lighter than its middle, of a colour image its distinct
 * colours, the largest first. `by` and the images of `planes` are the same stretches of rows, texel for texel.
 */
export function regionSpreads(by: readonly RasterImage[], planes: readonly PlaneOfImage[]): RegionSpread[] {
  const seeds = by[0]!.channels < 3 ? [[0], [1]] : coloursOf(by)
  const sums = seeds.map(() => ({ count: 0, of: planes.map(() => ({ sum: 0, squares: 0 })) }))
  let texels = 0
  by.forEach((piece, p) => {
    const { values, channels } = piece
    for (let i = 0; i < piece.width * piece.height; i++) {
      texels++
      const region = nearest(seeds, values, i * channels)
      if (region < 0) continue
      const found = sums[region]!
      found.count++
      planes.forEach(({ image, plane, inverted }, k) => {
        const stored = image[p]!.values[i * image[p]!.channels + plane]!
        const v = inverted ? 1 - stored : stored
        found.of[k]!.sum += v
        found.of[k]!.squares += v * v
      })
    }
  })
  return seeds
    .map((seed, s): RegionSpread => {
      const { count, of } = sums[s]!
      return {
        colour: hexOf(seed),
        ratio: count / texels,
        spreads: of.map(({ sum, squares }) => {
          const mean = count === 0 ? 0 : sum / count
          return { mean, deviation: count === 0 ? 0 : Math.sqrt(Math.max(0, squares / count - mean * mean)) }
        }),
      }
    })
    .filter(({ ratio }) => ratio >= SMALLEST)
    .sort((a, b) => b.ratio - a.ratio)
}

/** Distinct colours: the most frequent ones that are not near one before. */
function coloursOf(pieces: readonly RasterImage[]): number[][] {
  const counts = new Map<number, number>()
  let texels = 0
  for (const { values, channels, width, height } of pieces)
    for (let i = 0; i < width * height; i++, texels++) {
      const at = i * channels
      const step = (c: number): number => Math.min(31, Math.max(0, Math.floor(values[at + c]! * 31 + 0.5)))
      const key = (step(0) << 10) | (step(1) << 5) | step(2)
      counts.set(key, (counts.get(key) ?? 0) + 1)
    }
  const seeds: number[][] = []
  for (const [key, count] of [...counts].sort((a, b) => b[1] - a[1] || a[0] - b[0])) {
    if (count < SMALLEST * texels || seeds.length === MOST) break
    const colour = [key >> 10, (key >> 5) & 31, key & 31].map((v) => v / 31)
    if (nearest(seeds, colour, 0) < 0) seeds.push(colour)
  }
  return seeds
}

/** The seed that values from `at` on are nearest to; −1 where none is near. */
function nearest(seeds: readonly (readonly number[])[], values: ArrayLike<number>, at: number): number {
  let best = -1
  // A grey is of the nearer of its two ends, however far.
  let limit = seeds[0]?.length === 1 ? Infinity : NEAR
  seeds.forEach((seed, s) => {
    let far = 0
    for (let c = 0; c < seed.length; c++) far = Math.max(far, Math.abs(seed[c]! - values[at + c]!))
    if (far < limit) {
      limit = far
      best = s
    }
  })
  return best
}

const hexOf = (seed: readonly number[]): string =>
  '#' +
  [0, 1, 2]
    .map((c) =>
      Math.round((seed[c] ?? seed[0]!) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')
