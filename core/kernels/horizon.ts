import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { directionOf } from './warp'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { pieceRows, simd } from './simd'

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

/** One place looked at: whole texels away, and the tangent of the elevation of something 1 higher there. */
interface Look {
  readonly dx: number
  readonly dy: number
  readonly slope: number
}

function looksAlong(direction: number, radius: number, rise: number): Look[] {
  const [du, dv] = directionOf(direction / DIRECTIONS)
  return horizonSteps(radius)
    .map((distance) => ({ dx: Math.round(du * distance), dy: Math.round(dv * distance) }))
    .filter(({ dx, dy }) => dx !== 0 || dy !== 0)
    .map(({ dx, dy }) => {
      const square = dx * dx + dy * dy
      const weight = Math.max(0, 1 - square / ((radius + 1) * (radius + 1)))
      return { dx, dy, slope: f((rise * Math.sqrt(weight)) / Math.sqrt(square)) }
    })
}

/**
 * Ambient occlusion of a height field: the open share of a cosine-weighted sky over the tile's plane.
 * For each of 16 directions the highest horizon within the radius hides sin² of its elevation; the tangent of what is seen
 * counts less towards the radius by √(1 − (d/r)²), so nothing pops in at its end. result = 1 − strength · mean(sin² h).
 * Units: `rise` is metres a grey unit over metres a texel (the height of one unit in texels); `radius` in texels.
 * Range: 0–1; 1 is open. Source: L. Bavoil, M. Sainz, R. Dimitrov, "Image-space horizon-based ambient occlusion",
 * SIGGRAPH 2008; cosine weight in place of its uniform one, and the fall-off on the tangent in place of the sine, which
 * takes one division a direction instead of one a look (own derivation; the same on gentle slopes, darker by up to 0.05 among
 * steep ones).
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
  const directions = Array.from({ length: DIRECTIONS }, (_, k) => looksAlong(k, radius, rise))
  const scale = f(strength / DIRECTIONS)
  const twin = height.width % 4 === 0 ? simd() : null
  if (twin) twin.scratch(() => bySimd(twin, height, out, rows, directions, scale))
  else byDefinition(height, out, rows, directions, scale)
}

type Directions = readonly (readonly Look[])[]

function byDefinition(height: Field, out: Field, rows: Rows, directions: Directions, scale: number): void {
  const { width } = height
  const plane = height.planes[0]!
  const target = out.planes[0]!
  const hidden = new Float32Array(width)
  const steepest = new Float32Array(width)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const here = rowStart(height, y)
    hidden.fill(0)
    for (const looks of directions) {
      steepest.fill(0)
      for (const { dx, dy, slope } of looks) {
        const row = rowStart(height, y + dy)
        const shift = floorMod(dx, width)
        raise(plane, here, row + shift, width - shift, 0, slope, steepest)
        raise(plane, here, row - (width - shift), width, width - shift, slope, steepest)
      }
      for (let x = 0; x < width; x++) {
        const square = f(steepest[x]! * steepest[x]!)
        hidden[x] = hidden[x]! + f(square / f(1 + square))
      }
    }
    const start = rowStart(out, y)
    for (let x = 0; x < width; x++) {
      const open = f(1 - f(scale * hidden[x]!))
      target[start + x] = open < 0 ? 0 : open
    }
  }
}

/** steepest = max(steepest, tangent) for texels `from` to `to` of a row, `there` being where they look. */
function raise(
  plane: Float32Array,
  here: number,
  there: number,
  to: number,
  from: number,
  slope: number,
  steepest: Float32Array,
): void {
  for (let x = from; x < to; x++) {
    const tangent = f(f(plane[there + x]! - plane[here + x]!) * slope)
    const known = steepest[x]!
    steepest[x] = tangent > known ? tangent : known
  }
}

function bySimd(twin: Simd, height: Field, out: Field, rows: Rows, directions: Directions, scale: number): void {
  const { width } = height
  const all = directions.flat()
  const pad = Math.ceil(Math.max(0, ...all.map(({ dx }) => Math.abs(dx))) / 4) * 4
  const reach = Math.max(0, ...all.map(({ dy }) => Math.abs(dy)))
  const stride = width + 2 * pad
  const piece = pieceRows(width)
  const looks = twin.take(2 * all.length)
  const counts = twin.take(directions.length)
  const first = twin.take((piece + 2 * reach) * stride) + pad * 4
  const room = twin.take(piece * width)
  const offsets = twin.ints(looks, 2 * all.length)
  const slopes = twin.floats(looks, 2 * all.length)
  all.forEach(({ dx, dy, slope }, i) => {
    offsets[2 * i] = (dy * stride + dx) * 4
    slopes[2 * i + 1] = slope
  })
  twin.ints(counts, directions.length).set(directions.map((list) => list.length))
  for (let y = rows.from; y < rows.to; y += piece) {
    rows.check()
    const to = Math.min(rows.to, y + piece)
    twin.copyPadded(height, height.planes[0]!, y - reach, to + reach, first, stride, pad)
    const result = twin.target(out, out.planes[0]!, y, to, room)
    twin.assembly.occlusion(
      first + reach * stride * 4,
      stride * 4,
      result,
      width * 4,
      width,
      to - y,
      looks,
      counts,
      directions.length,
      scale,
    )
    twin.written(result, out, out.planes[0]!, y, to, room)
  }
}
