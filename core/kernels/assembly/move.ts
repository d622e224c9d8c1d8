import { cosTurns, sinTurns } from './elementary'
import { bounded, boundedNumber, high, joined, low } from './lanes'

function floorMod(a: i32, n: i32): i32 {
  const rest = a % n
  return rest < 0 ? rest + n : rest
}

/**
 * Twin of bilinearReader (core/kernels/bilinear.ts) for a plane of `rows` rows of `width` values from row `first` of `height`;
 * where they are all rows, it wraps.
 */
export function readAt(plane: usize, width: i32, height: i32, first: i32, rows: i32, x: f64, y: f64): f32 {
  const floorX = Math.floor(x)
  const floorY = Math.floor(y)
  const tx = <f32>(x - floorX)
  const ty = <f32>(y - floorY)
  const ix = <i32>floorX
  let row = <i32>floorY - first
  let below = row + 1
  if (rows == height && (row < 0 || below >= height)) {
    row = floorMod(row, height)
    below = row + 1 == height ? 0 : row + 1
  }
  const x0 = ix >= 0 && ix < width ? ix : floorMod(ix, width)
  const x1 = x0 + 1 == width ? 0 : x0 + 1
  const r0 = plane + ((<usize>(row * width)) << 2)
  const r1 = plane + ((<usize>(below * width)) << 2)
  const a = load<f32>(r0 + ((<usize>x0) << 2))
  const b = load<f32>(r1 + ((<usize>x0) << 2))
  const top = a + tx * (load<f32>(r0 + ((<usize>x1) << 2)) - a)
  const lower = b + tx * (load<f32>(r1 + ((<usize>x1) << 2)) - b)
  return top + ty * (lower - top)
}

/** Reads a row of places, in texels: four at a time where all of them and their neighbours lie within the rows. */
export function readRow(
  plane: usize,
  width: i32,
  height: i32,
  first: i32,
  rows: i32,
  px: usize,
  py: usize,
  out: usize,
): void {
  const line = (<usize>width) << 2
  const lastColumn = i32x4.splat(width - 1)
  const lastRow = i32x4.splat(rows - 1)
  let x = 0
  for (; x + 4 <= width; x += 4) {
    const at = (<usize>x) << 3
    const to = out + ((<usize>x) << 2)
    const x01 = v128.load(px + at)
    const x23 = v128.load(px + at, 16)
    const y01 = v128.load(py + at)
    const y23 = v128.load(py + at, 16)
    const fx01 = f64x2.floor(x01)
    const fx23 = f64x2.floor(x23)
    const fy01 = f64x2.floor(y01)
    const fy23 = f64x2.floor(y23)
    let column = wholeOf(fx01, fx23)
    let row = i32x4.sub(wholeOf(fy01, fy23), i32x4.splat(first))
    let within = v128.and(i32x4.lt_u(column, lastColumn), i32x4.lt_u(row, lastRow))
    if (!i32x4.all_true(within)) {
      // Places in the next tiles; the very last column and row have their neighbours elsewhere and are read one by one.
      column = wholeOf(wrappedInto(fx01, width), wrappedInto(fx23, width))
      if (rows == height) row = wholeOf(wrappedInto(fy01, height), wrappedInto(fy23, height))
      within = v128.and(i32x4.lt_u(column, lastColumn), i32x4.lt_u(row, lastRow))
    }
    if (!i32x4.all_true(within)) {
      for (let lane = 0; lane < 4; lane++) {
        const from = at + ((<usize>lane) << 3)
        const v = readAt(plane, width, height, first, rows, load<f64>(px + from), load<f64>(py + from))
        store<f32>(to + ((<usize>lane) << 2), v)
      }
      continue
    }
    const tx = joined(f64x2.sub(x01, fx01), f64x2.sub(x23, fx23))
    const ty = joined(f64x2.sub(y01, fy01), f64x2.sub(y23, fy23))
    const offset = i32x4.shl(i32x4.add(i32x4.mul(row, i32x4.splat(width)), column), 2)
    const p0 = plane + <usize>i32x4.extract_lane(offset, 0)
    const p1 = plane + <usize>i32x4.extract_lane(offset, 1)
    const p2 = plane + <usize>i32x4.extract_lane(offset, 2)
    const p3 = plane + <usize>i32x4.extract_lane(offset, 3)
    // Each of these is a value and the next one, twice.
    const upper01 = v128.load64_lane(p1, v128.load64_zero(p0), 1)
    const upper23 = v128.load64_lane(p3, v128.load64_zero(p2), 1)
    const lower01 = v128.load64_lane(p1 + line, v128.load64_zero(p0 + line), 1)
    const lower23 = v128.load64_lane(p3 + line, v128.load64_zero(p2 + line), 1)
    const a = v128.shuffle<f32>(upper01, upper23, 0, 2, 4, 6)
    const b = v128.shuffle<f32>(lower01, lower23, 0, 2, 4, 6)
    const top = f32x4.add(a, f32x4.mul(tx, f32x4.sub(v128.shuffle<f32>(upper01, upper23, 1, 3, 5, 7), a)))
    const lower = f32x4.add(b, f32x4.mul(tx, f32x4.sub(v128.shuffle<f32>(lower01, lower23, 1, 3, 5, 7), b)))
    v128.store(to, f32x4.add(top, f32x4.mul(ty, f32x4.sub(lower, top))))
  }
  for (; x < width; x++) {
    const at = (<usize>x) << 3
    const v = readAt(plane, width, height, first, rows, load<f64>(px + at), load<f64>(py + at))
    store<f32>(out + ((<usize>x) << 2), v)
  }
}

/** Whole numbers modulo n, never negative. */
function wrappedInto(v: v128, n: i32): v128 {
  const length = f64x2.splat(<f64>n)
  return f64x2.sub(v, f64x2.mul(f64x2.floor(f64x2.div(v, length)), length))
}

/** Two pairs of whole float64 as four words. */
function wholeOf(a: v128, b: v128): v128 {
  return v128.shuffle<i64>(i32x4.trunc_sat_f64x2_s_zero(a), i32x4.trunc_sat_f64x2_s_zero(b), 0, 2)
}

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

/** Values of a row kept finite; whole vectors. */
export function boundRow(row: usize, width: i32): void {
  for (let i: usize = 0; i < (<usize>width) << 2; i += 16) v128.store(row + i, bounded(v128.load(row + i)))
}

function held(v: f64): f64 {
  return v < -1 ? -1 : v > 1 ? 1 : v
}

/** A push of length 1 at most, from its two parts. */
function storePush(u: usize, v: usize, at: usize, right: f64, up: f64): void {
  const square = right * right + up * up
  // A root only where it may be above 1.
  const length: f64 = square > 1 ? Math.sqrt(square) : 1
  store<f64>(u + at, length > 1 ? right / length : right)
  store<f64>(v + at, length > 1 ? up / length : up)
}

/** The push of a warp along an angle: to the right, as far as the driver says (0: everywhere 1). */
export function pushByAngle(driver: usize, u: usize, v: usize, width: i32): void {
  for (let x = 0; x < width; x++)
    storePush(u, v, (<usize>x) << 3, driver ? held(<f64>load<f32>(driver + ((<usize>x) << 2))) : 1, 0)
}

/** The push of a warp by a field of vectors, whose second part points down. */
export function pushByVector(across: usize, down: usize, u: usize, v: usize, width: i32): void {
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    storePush(u, v, at << 1, <f64>load<f32>(across + at), -(<f64>load<f32>(down + at)))
  }
}

/** The push of a warp downhill, by the row of a driver and those above and below it. */
export function pushBySlope(
  above: usize,
  here: usize,
  below: usize,
  u: usize,
  v: usize,
  width: i32,
  steepness: f64,
): void {
  const texels = <f64>width
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const left = (<usize>(x == 0 ? width - 1 : x - 1)) << 2
    const right = (<usize>(x == width - 1 ? 0 : x + 1)) << 2
    const across = (<f64>load<f32>(here + right) - <f64>load<f32>(here + left)) / 2
    const down = (<f64>load<f32>(below + at) - <f64>load<f32>(above + at)) / 2
    storePush(u, v, at << 1, (-across * texels) / steepness, (down * texels) / steepness)
  }
}

/**
 * Where each texel of row `y` comes from, by its push turned: by `turns` and what `angleBy` adds (0: nothing). `cos` and `sin`
 * are those of `turns`; `strengthBy` 0 is 1 everywhere.
 */
export function pushedFrom(
  u: usize,
  v: usize,
  px: usize,
  py: usize,
  width: i32,
  y: f64,
  turns: f64,
  cos: f64,
  sin: f64,
  angleBy: usize,
  strengthBy: usize,
  strength: f64,
): void {
  const texels = <f64>width
  let c = cos
  let s = sin
  if (!angleBy && !strengthBy) {
    pushedAlike(u, v, px, py, width, y, cos, sin, strength)
    return
  }
  for (let x = 0; x < width; x++) {
    const at = (<usize>x) << 2
    const to = at << 1
    if (angleBy) {
      const angle = turns + <f64>load<f32>(angleBy + at)
      c = cosTurns(angle)
      s = sinTurns(angle)
    }
    let ratio: f64 = 1
    if (strengthBy) {
      const by = held(<f64>load<f32>(strengthBy + at))
      ratio = by > 0 ? by : 0
    }
    ratio *= strength
    const right = load<f64>(u + to)
    const up = load<f64>(v + to)
    store<f64>(px + to, <f64>x - (right * c - up * s) * ratio * texels)
    store<f64>(py + to, y - -(right * s + up * c) * ratio * texels)
  }
}

/** The same where turn and strength are the same everywhere, two texels at a time; `px` and `py` have room for one more. */
function pushedAlike(
  u: usize,
  v: usize,
  px: usize,
  py: usize,
  width: i32,
  y: f64,
  cos: f64,
  sin: f64,
  strength: f64,
): void {
  const c = f64x2.splat(cos)
  const s = f64x2.splat(sin)
  const ratio = f64x2.splat(strength)
  const texels = f64x2.splat(<f64>width)
  const row = f64x2.splat(y)
  let column = f64x2(0, 1)
  for (let at: usize = 0; at < (<usize>width) << 3; at += 16) {
    const right = v128.load(u + at)
    const up = v128.load(v + at)
    const across = f64x2.mul(f64x2.sub(f64x2.mul(right, c), f64x2.mul(up, s)), ratio)
    const down = f64x2.mul(f64x2.neg(f64x2.add(f64x2.mul(right, s), f64x2.mul(up, c))), ratio)
    v128.store(px + at, f64x2.sub(column, f64x2.mul(across, texels)))
    v128.store(py + at, f64x2.sub(row, f64x2.mul(down, texels)))
    column = f64x2.add(column, f64x2.splat(2))
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

/**
 * Row `row` of a field turned and scaled about the middle of the source, as core/kernels/transform.ts defines it: the mean of
 * `fine` × `fine` places a texel. `room` has room for two rows of float64 places, one of sums, and a row of values.
 */
export function transformRow(
  plane: usize,
  width: i32,
  height: i32,
  first: i32,
  rows: i32,
  row: f64,
  a: f64,
  b: f64,
  c: f64,
  d: f64,
  mx: f64,
  my: f64,
  fine: i32,
  room: usize,
  out: usize,
): void {
  const parts = <f64>fine
  const line = (<usize>(width + 2)) << 3
  const px = room
  const py = px + line
  const sums = py + line
  const values = sums + line
  memory.fill(sums, 0, line)
  for (let j = 0; j < fine; j++) {
    const y = row + (<f64>j + 0.5) / parts - my
    for (let i = 0; i < fine; i++) {
      turnedPlaces(px, py, width, (<f64>i + 0.5) / parts, mx, y, a, b, c, d, <f64>width / 2, <f64>height / 2)
      readRow(plane, width, height, first, rows, px, py, values)
      addRow(values, sums, width)
    }
  }
  for (let x = 0; x < width; x++)
    store<f32>(out + ((<usize>x) << 2), boundedNumber(load<f64>(sums + ((<usize>x) << 3)) / (parts * parts)))
}

/** Where the texels of a row come from: turned, scaled and moved, in texels. */
function turnedPlaces(
  px: usize,
  py: usize,
  width: i32,
  part: f64,
  mx: f64,
  y: f64,
  a: f64,
  b: f64,
  c: f64,
  d: f64,
  halfWidth: f64,
  halfHeight: f64,
): void {
  const half = f64x2.splat(0.5)
  const by = f64x2.splat(b * y)
  const dy = f64x2.splat(d * y)
  let column = f64x2(0, 1)
  for (let at: usize = 0; at < (<usize>width) << 3; at += 16) {
    const x = f64x2.sub(f64x2.add(column, f64x2.splat(part)), f64x2.splat(mx))
    const across = f64x2.add(f64x2.add(f64x2.mul(f64x2.splat(a), x), by), f64x2.splat(halfWidth))
    const down = f64x2.add(f64x2.add(f64x2.mul(f64x2.splat(c), x), dy), f64x2.splat(halfHeight))
    v128.store(px + at, f64x2.sub(across, half))
    v128.store(py + at, f64x2.sub(down, half))
    column = f64x2.add(column, f64x2.splat(2))
  }
}

/** Adds a row of float32 to sums in float64; whole vectors. */
function addRow(values: usize, sums: usize, width: i32): void {
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
