import { withinOne } from './lanes'
import { coverage, polygonDistances } from './polygon'

/** Bytes of a copy of a unit: where the unit is, its number, and how far the copy is moved. */
const COPY: usize = 24

/**
 * Twin of a row of bondFields (core/kernels/bonds/bond-fields.ts), which tells how units, copies and buckets lie in memory.
 * `v` is the row's place in tile widths; outputs that nobody asks for are 0.
 * `room` has room for a row of float64 and one of words.
 */
export function bondRow(
  width: i32,
  v: f64,
  starts: usize,
  copies: usize,
  across: i32,
  bucketWidth: f64,
  bucketRow: i32,
  edge: f64,
  heightJitter: f64,
  tilt: f64,
  mask: usize,
  distance: usize,
  value: usize,
  level: usize,
  id: usize,
  localX: usize,
  localY: usize,
  directionX: usize,
  directionY: usize,
  room: usize,
): void {
  // Two texels of a bucket look for their units together.
  const bests = room + ((<usize>width) << 3)
  for (let x = 0; x < width;) {
    const column = columnOf(x, width, bucketWidth, across)
    const bucket = starts + ((<usize>(bucketRow * across + column)) << 2)
    const first = copies + <usize>load<i32>(bucket) * COPY
    const end = copies + <usize>load<i32>(bucket, 4) * COPY
    const two = x + 1 < width && columnOf(x + 1, width, bucketWidth, across) == column
    // The second lane of a texel alone goes the same way and is not kept.
    const next = two ? x + 1 : x
    nearest(
      f64x2.replace_lane(f64x2.splat((<f64>x + 0.5) / <f64>width), 1, (<f64>next + 0.5) / <f64>width),
      v,
      first,
      end,
    )
    store<f64>(room + ((<usize>x) << 3), f64x2.extract_lane(maxima, 0))
    store<i32>(bests + ((<usize>x) << 2), <i32>firstBest)
    if (two) {
      store<f64>(room + ((<usize>next) << 3), f64x2.extract_lane(maxima, 1))
      store<i32>(bests + ((<usize>next) << 2), <i32>secondBest)
    }
    x = next + 1
  }
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const u = (<f64>x + 0.5) / <f64>width
    const max = load<f64>(room + (at << 1))
    const best = <usize>load<i32>(bests + at)
    if (mask) store<f32>(mask + at, <f32>coverage(max, edge))
    if (distance) store<f32>(distance + at, <f32>(max + 0))
    const unit = <usize>load<i32>(best)
    if (id) store<i32>(id + at, load<i32>(best, 4))
    if (value) store<f32>(value + at, <f32>load<f64>(unit, 120))
    const cos = load<f64>(unit, 40)
    const sin = load<f64>(unit, 48)
    if (directionX) {
      store<f32>(directionX + at, <f32>(cos + 0))
      store<f32>(directionY + at, <f32>(-sin + 0))
    }
    if (!localX && !level) continue
    const px = u - load<f64>(best, 8) - load<f64>(unit, 24)
    const py = v - load<f64>(best, 16) - load<f64>(unit, 32)
    const s = (px * cos - py * sin - load<f64>(unit, 56)) / load<f64>(unit, 72)
    const t = (px * sin + py * cos - load<f64>(unit, 64)) / load<f64>(unit, 80)
    if (localX) {
      store<f32>(localX + at, <f32>((s + 1) / 2))
      store<f32>(localY + at, <f32>((t + 1) / 2))
    }
    if (level) {
      const lean = load<f64>(unit, 136) * withinOne(s) + load<f64>(unit, 144) * withinOne(t)
      store<f32>(level + at, <f32>(0.5 + heightJitter * load<f64>(unit, 128) + (tilt / 2) * lean))
    }
  }
}

function columnOf(x: i32, width: i32, bucketWidth: f64, across: i32): i32 {
  const column = <i32>Math.floor((<f64>x + 0.5) / <f64>width / bucketWidth)
  return column < across ? column : across - 1
}

/** What `nearest` found for two texels: their distances and copies. */
let maxima: v128 = i64x2.splat(0)
let firstBest: usize = 0
let secondBest: usize = 0

/** The copies that two texels lie deepest in, or nearest to; of equals the first. */
function nearest(u: v128, v: f64, first: usize, end: usize): void {
  maxima = f64x2.splat(-Infinity)
  firstBest = first
  secondBest = first
  const zero = f64x2.splat(0)
  for (let copy = first; copy < end; copy += COPY) {
    const unit = <usize>load<i32>(copy)
    const px = f64x2.sub(u, f64x2.splat(load<f64>(copy, 8)))
    const py = v - load<f64>(copy, 16)
    const top = load<f64>(unit, 96)
    const bottom = load<f64>(unit, 112)
    const ox = f64x2.max(
      zero,
      f64x2.max(f64x2.sub(f64x2.splat(load<f64>(unit, 88)), px), f64x2.sub(px, f64x2.splat(load<f64>(unit, 104)))),
    )
    const oy: f64 = py < top ? top - py : py > bottom ? py - bottom : 0
    const off = f64x2.add(f64x2.mul(ox, ox), f64x2.splat(oy * oy))
    const outside = f64x2.gt(off, zero)
    const reaches = v128.or(f64x2.ge(maxima, zero), f64x2.gt(off, f64x2.mul(maxima, maxima)))
    if (i64x2.all_true(v128.and(outside, reaches))) continue
    const d = f64x2.add(
      polygonDistances(<usize>load<i32>(unit), load<i32>(unit, 4), px, py),
      f64x2.splat(load<f64>(unit, 16)),
    )
    const larger = f64x2.gt(d, maxima)
    maxima = v128.bitselect(d, maxima, larger)
    if (i64x2.extract_lane(larger, 0)) firstBest = copy
    if (i64x2.extract_lane(larger, 1)) secondBest = copy
  }
}
