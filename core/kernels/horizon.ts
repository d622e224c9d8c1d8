import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { directionOf } from './warp'
import type { Rows } from './rows'

const f = Math.fround
const DIRECTIONS = 16
const MAX_STEPS = 16

/** Steps outward, in texels: every texel up to 16, else ever wider towards the radius. */
export function horizonSteps(radius: number): number[] {
  const count = Math.max(1, Math.min(MAX_STEPS, Math.ceil(radius)))
  return Array.from({ length: count }, (_, i) => {
    const t = (i + 1) / count
    return radius <= MAX_STEPS ? radius * t : Math.max(i + 1, radius * t * t)
  })
}

/** One place looked at: whole texels away, its squared distance, and what it still counts for. */
interface Look {
  readonly dx: number
  readonly dy: number
  readonly square: number
  readonly weight: number
}

function looksAlong(direction: number, radius: number): Look[] {
  const [du, dv] = directionOf(direction / DIRECTIONS)
  return horizonSteps(radius)
    .map((distance) => ({ dx: Math.round(du * distance), dy: Math.round(dv * distance) }))
    .filter(({ dx, dy }) => dx !== 0 || dy !== 0)
    .map(({ dx, dy }) => {
      const square = dx * dx + dy * dy
      return { dx, dy, square, weight: Math.max(0, f(1 - square / ((radius + 1) * (radius + 1)))) }
    })
}

/**
 * Ambient occlusion of a height field: the open share of a cosine-weighted sky over the tile's plane.
 * For each of 16 directions the highest horizon within the radius hides sin² of its elevation; heights count less
 * towards the radius by 1 − (d/r)², so nothing pops in at its end. result = 1 − strength · mean(sin² h).
 * Units: `rise` is metres a grey unit over metres a texel (the height of one unit in texels); `radius` in texels.
 * Range: 0–1; 1 is open. Source: L. Bavoil, M. Sainz, R. Dimitrov, "Image-space horizon-based ambient occlusion",
 * SIGGRAPH 2008; cosine weight in place of its uniform one.
 *
 * Heights are read at whole texels, a row at a time: bilinear reading texel by texel measured 15 times slower.
 */
export function horizonOcclusion(
  height: Field,
  out: Field,
  rows: Rows,
  rise: number,
  radius: number,
  strength: number,
): void {
  const { width } = height
  const plane = height.planes[0]!
  const target = out.planes[0]!
  const directions = Array.from({ length: DIRECTIONS }, (_, k) => looksAlong(k, radius))
  const hidden = new Float32Array(width)
  const highest = new Float32Array(width)
  const scale = f(strength / DIRECTIONS)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const here = rowStart(height, y)
    hidden.fill(0)
    for (const looks of directions) {
      highest.fill(0)
      for (const { dx, dy, square, weight } of looks) {
        const row = rowStart(height, y + dy)
        const shift = floorMod(dx, width)
        raise(plane, here, row + shift, width - shift, 0, rise, square, weight, highest)
        raise(plane, here, row - (width - shift), width, width - shift, rise, square, weight, highest)
      }
      for (let x = 0; x < width; x++) hidden[x] = hidden[x]! + highest[x]!
    }
    const start = rowStart(out, y)
    for (let x = 0; x < width; x++) {
      const open = f(1 - f(scale * hidden[x]!))
      target[start + x] = open < 0 ? 0 : open
    }
  }
}

/**
 * highest = max(highest, weight · up²/(up² + d²)) for texels `from` to `to` of a row, `there` being where they look.
 * Dividing always is faster than branching on whether the horizon rises, and than Math.max: 11, 24 and 17 ns a look
 * (Node 20).
 */
function raise(
  plane: Float32Array,
  here: number,
  there: number,
  to: number,
  from: number,
  rise: number,
  square: number,
  weight: number,
  highest: Float32Array,
): void {
  for (let x = from; x < to; x++) {
    const d = f(f(plane[there + x]! - plane[here + x]!) * rise)
    const up = d > 0 ? d : 0
    const u = f(up * up)
    const hidden = f(f(u * weight) / f(u + square))
    const known = highest[x]!
    highest[x] = hidden > known ? hidden : known
  }
}
