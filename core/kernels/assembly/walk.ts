import { cosTurns, sinTurns } from './elementary'
import { bounded, boundedNumber, high, low } from './lanes'
import { floorMod, readAt } from './read-places'
import { pushedFrom } from './warp'

/** Brings a row of one more direction to those before it. `combine` 0 averages, 1 takes the lesser, 2 the greater. */
export function combineRow(row: usize, out: usize, width: i32, combine: i32, isFirst: bool, weight: f32): void {
  for (let i: usize = 0; i < (<usize>width) << 2; i += 4) {
    const v = load<f32>(row + i)
    const known = load<f32>(out + i)
    let next = v
    if (combine == 0) next = isFirst ? v * weight : known + v * weight
    else if (!isFirst) next = (combine == 1 ? v < known : v > known) ? v : known
    store<f32>(out + i, next)
  }
}

/**
 * Twin of filterAlongPath (core/kernels/path-filter.ts) for a row of walks along straight lines: `px`, `py` where each begins,
 * `dx`, `dy` its step.
 */
export function walkRow(
  plane: usize,
  width: i32,
  height: i32,
  first: i32,
  rows: i32,
  px: usize,
  py: usize,
  dx: usize,
  dy: usize,
  steps: i32,
  combine: i32,
  out: usize,
): void {
  for (let i = 0; i < width; i++) {
    const at = (<usize>i) << 3
    let x = load<f64>(px + at)
    let y = load<f64>(py + at)
    const stepX = load<f64>(dx + at)
    const stepY = load<f64>(dy + at)
    let result = <f64>readAt(plane, width, height, first, rows, x, y)
    for (let step = 1; step <= steps; step++) {
      x += stepX
      y += stepY
      const v = <f64>readAt(plane, width, height, first, rows, x, y)
      if (combine == 0) result += v
      else if (combine == 1 ? v < result : v > result) result = v
    }
    store<f32>(out + ((<usize>i) << 2), boundedNumber(combine == 0 ? result / <f64>(steps + 1) : result))
  }
}

/**
 * Where the walk of a directional blur begins in each texel of row `y`, and its step. `texels` is the line's length, `back`
 * the part of it before the texel, in steps; otherwise as pushedFrom.
 */
export function linesFrom(
  px: usize,
  py: usize,
  dx: usize,
  dy: usize,
  width: i32,
  y: f64,
  turns: f64,
  cos: f64,
  sin: f64,
  angleBy: usize,
  lengthBy: usize,
  texels: f64,
  steps: i32,
  back: f64,
): void {
  let c = cos
  let s = sin
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const to = at << 1
    if (angleBy) {
      const angle = turns + <f64>load<f32>(angleBy + at)
      c = cosTurns(angle)
      s = sinTurns(angle)
    }
    let ratio: f64 = 1
    if (lengthBy) {
      const by = <f64>load<f32>(lengthBy + at)
      ratio = by < 0 ? 0 : by > 1 ? 1 : by
    }
    const step = (texels * ratio) / <f64>steps
    const stepX = -c * step
    const stepY = s * step
    store<f64>(dx + to, stepX)
    store<f64>(dy + to, stepY)
    store<f64>(px + to, <f64>x - stepX * back)
    store<f64>(py + to, y - stepY * back)
  }
}

/** Adds a row of float32 to sums in float64; whole vectors. */
export function addRow(values: usize, sums: usize, width: i32): void {
  for (let at: usize = 0; at < (<usize>width) << 2; at += 16) {
    const v = v128.load(values + at)
    const to = sums + (at << 1)
    v128.store(to, f64x2.add(v128.load(to), low(v)))
    v128.store(to, f64x2.add(v128.load(to, 16), high(v)), 16)
  }
}

/**
 * As walkRow, downhill of a driver: each step has the length of `steps` for its texel, along the slope where the walk is
 * (downhill in core/kernels/path-filter.ts).
 */
export function walkDownhill(
  plane: usize,
  width: i32,
  height: i32,
  first: i32,
  rows: i32,
  driver: usize,
  driverFirst: i32,
  driverRows: i32,
  row: f64,
  lengths: usize,
  steps: i32,
  combine: i32,
  out: usize,
): void {
  const texels = <f64>width
  for (let i = 0; i < width; i++) {
    const length = load<f64>(lengths + ((<usize>i) << 3))
    let x = <f64>i
    let y = row
    let result = <f64>readAt(plane, width, height, first, rows, x, y)
    for (let step = 1; step <= steps; step++) {
      const nearX = Math.floor(x + 0.5)
      const at = <i32>(nearX - Math.floor(nearX / texels) * texels)
      const nearY = <i32>Math.floor(y + 0.5) - driverFirst
      const here = rowOf(driver, width, height, driverRows, nearY)
      const above = rowOf(driver, width, height, driverRows, nearY - 1)
      const below = rowOf(driver, width, height, driverRows, nearY + 1)
      const left = (<usize>(at == 0 ? width - 1 : at - 1)) << 2
      const right = (<usize>(at == width - 1 ? 0 : at + 1)) << 2
      const middle = (<usize>at) << 2
      const across = (<f64>load<f32>(here + right) - <f64>load<f32>(here + left)) / 2
      const down = (<f64>load<f32>(below + middle) - <f64>load<f32>(above + middle)) / 2
      const steep = Math.sqrt(across * across + down * down)
      const part = steep < 1e-12 ? 0 : length / steep
      x += -across * part
      y += -down * part
      const v = <f64>readAt(plane, width, height, first, rows, x, y)
      if (combine == 0) result += v
      else if (combine == 1 ? v < result : v > result) result = v
    }
    store<f32>(out + ((<usize>i) << 2), boundedNumber(combine == 0 ? result / <f64>(steps + 1) : result))
  }
}

function rowOf(plane: usize, width: i32, height: i32, rows: i32, row: i32): usize {
  return plane + ((<usize>((rows == height ? floorMod(row, height) : row) * width)) << 2)
}

/**
 * Brings a row between two rows to those before it: `upper` and `lower` point at what lies left and above of each texel, `tx` and
 * `ty` are the parts of the way to the next ones. `combine` 0 adds, 1 takes the lesser, 2 the greater.
 */
export function shiftedRow(
  upper: usize,
  lower: usize,
  tx: f32,
  ty: f32,
  out: usize,
  width: i32,
  combine: i32,
  isFirst: bool,
): void {
  const across = f32x4.splat(tx)
  const down = f32x4.splat(ty)
  for (let i: usize = 0; i < (<usize>width) << 2; i += 16) {
    const a = v128.load(upper + i)
    const b = v128.load(lower + i)
    const top = f32x4.add(a, f32x4.mul(across, f32x4.sub(v128.load(upper + i, 4), a)))
    const under = f32x4.add(b, f32x4.mul(across, f32x4.sub(v128.load(lower + i, 4), b)))
    const v = f32x4.add(top, f32x4.mul(down, f32x4.sub(under, top)))
    const known = v128.load(out + i)
    let next = v
    if (!isFirst) next = combine == 0 ? f32x4.add(known, v) : combine == 1 ? f32x4.pmin(known, v) : f32x4.pmax(known, v)
    v128.store(out + i, next)
  }
}

/** A row divided by a number and kept finite. */
export function dividedRow(row: usize, width: i32, by: f32): void {
  const number = f32x4.splat(by)
  for (let i: usize = 0; i < (<usize>width) << 2; i += 16)
    v128.store(row + i, bounded(f32x4.div(v128.load(row + i), number)))
}
