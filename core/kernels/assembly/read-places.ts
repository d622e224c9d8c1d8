import { bounded, joined } from './lanes'

export function floorMod(a: i32, n: i32): i32 {
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

/** Values of a row kept finite; whole vectors. */
export function boundRow(row: usize, width: i32): void {
  for (let i: usize = 0; i < (<usize>width) << 2; i += 16) v128.store(row + i, bounded(v128.load(row + i)))
}
