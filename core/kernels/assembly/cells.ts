import { joinedMask, low, high } from './lanes'
import { hashNumber } from './random'

/** Points that can be nearest or second: 25, the nine around a texel first. */
const NEAR = 25
const INNER = 9

/**
 * Twin of a row of cellDistances (core/kernels/cells.ts). `column` and `along` tell of each texel its lattice column and
 * place there, `fy` its place down. `lines` points at the offsets of 2 · ring + 1 lattice rows, each `columns` places across
 * and then down; `order` at the cells from the middle outward, four words each: its number, how far it is across, in bytes where its row
 * stands in `lines`, and how far it is down. `points` is room for
 * two numbers of each cell. Outputs that nobody asks for are 0; `own` gets the number of the nearest point.
 */
export function cellsRow(
  width: i32,
  columns: i32,
  column: usize,
  along: usize,
  fy: f32,
  lines: usize,
  ring: i32,
  order: usize,
  points: usize,
  metric: i32,
  needSecond: bool,
  nearest: usize,
  second: usize,
  gap: usize,
  border: usize,
  own: usize,
): void {
  const count = (2 * ring + 1) * (2 * ring + 1)
  const exactBorder = border != 0 && metric == 0
  let x = 0
  while (x < width) {
    const ix = load<i32>(column + ((<usize>x) << 2))
    let end = x + 1
    while (end < width && load<i32>(column + ((<usize>end) << 2)) == ix) end++
    gather(ix, columns, lines, count, order, points)
    // The last four may reach into the next cell, which writes them again.
    for (; x < end; x += 4) {
      const at = (<usize>x) << 2
      const fx = v128.load(along + at)
      let f1 = f32x4.splat(Infinity)
      let f2 = f1
      let mine = i32x4.splat(0)
      for (let k = 0; k < INNER; k++) {
        const d = distanceTo(points, k, fx, fy, metric)
        const closer = f32x4.lt(d, f1)
        f2 = v128.bitselect(f1, f32x4.pmin(f2, d), closer)
        f1 = v128.bitselect(d, f1, closer)
        mine = v128.bitselect(i32x4.splat(k), mine, closer)
      }
      const open = reaches(needSecond ? f2 : f1, fx, fy, metric)
      if (v128.any_true(open))
        for (let k = INNER; k < NEAR; k++) {
          const d = distanceTo(points, k, fx, fy, metric)
          const closer = v128.and(f32x4.lt(d, f1), open)
          f2 = v128.bitselect(f1, v128.bitselect(f32x4.pmin(f2, d), f2, open), closer)
          f1 = v128.bitselect(d, f1, closer)
          mine = v128.bitselect(i32x4.splat(k), mine, closer)
        }
      const first = metric == 0 ? f32x4.sqrt(f1) : f1
      const next = metric == 0 ? f32x4.sqrt(f2) : f2
      if (nearest) v128.store(nearest + at, first)
      if (second) v128.store(second + at, next)
      if (gap) v128.store(gap + at, f32x4.sub(next, first))
      if (exactBorder) v128.store(border + at, borderOf(points, count, mine, fx, fy, first))
      else if (border) v128.store(border + at, f32x4.mul(f32x4.sub(next, first), f32x4.splat(0.5)))
      if (own) {
        store<i32>(own + at, load<i32>(order + ((<usize>i32x4.extract_lane(mine, 0)) << 4)))
        store<i32>(own + at, load<i32>(order + ((<usize>i32x4.extract_lane(mine, 1)) << 4)), 4)
        store<i32>(own + at, load<i32>(order + ((<usize>i32x4.extract_lane(mine, 2)) << 4)), 8)
        store<i32>(own + at, load<i32>(order + ((<usize>i32x4.extract_lane(mine, 3)) << 4)), 12)
      }
    }
    x = end
  }
}

/** Writes the points around a lattice column relative to its corner, two numbers each, in order. */
function gather(ix: i32, columns: i32, lines: usize, count: i32, order: usize, points: usize): void {
  const down = (<usize>columns) << 2
  const end = order + ((<usize>count) << 4)
  let to = points
  for (let cell = order; cell < end; cell += 16) {
    let at = ix + load<i32>(cell, 4)
    while (at < 0) at += columns
    while (at >= columns) at -= columns
    const point = <usize>load<i32>(lines + <usize>load<i32>(cell, 8)) + ((<usize>at) << 2)
    store<f32>(to, load<f32>(point) + <f32>load<i32>(cell, 4))
    store<f32>(to, load<f32>(point + down) + <f32>load<i32>(cell, 12), 4)
    to += 8
  }
}

function distanceTo(points: usize, k: i32, fx: v128, fy: f32, metric: i32): v128 {
  const point = points + ((<usize>k) << 3)
  const dx = f32x4.sub(v128.load_splat<f32>(point), fx)
  const dy = f32x4.splat(load<f32>(point, 4) - fy)
  if (metric == 0) return f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy))
  const ax = f32x4.abs(dx)
  const ay = f32x4.abs(dy)
  return metric == 1 ? f32x4.add(ax, ay) : f32x4.pmax(ay, ax)
}

/** Which lanes may find something nearer in the outer ring, one cell beyond their own cell's edges. */
function reaches(worst: v128, fx: v128, fy: f32, metric: i32): v128 {
  const across = f32x4.pmin(f32x4.sub(f32x4.splat(1), fx), fx)
  const rest: f32 = <f32>1 - fy
  const down = rest < fy ? rest : fy
  const m = f32x4.pmin(f32x4.splat(down), across)
  const one = f64x2.splat(1)
  let a = f64x2.add(one, low(m))
  let b = f64x2.add(one, high(m))
  if (metric == 0) {
    a = f64x2.mul(a, a)
    b = f64x2.mul(b, b)
  }
  return joinedMask(f64x2.gt(low(worst), a), f64x2.gt(high(worst), b))
}

/** Twin of borderDistance. Points too far off to matter are passed over: half their distance lies beyond what is found. */
function borderOf(points: usize, count: i32, mine: v128, fx: v128, fy: f32, first: v128): v128 {
  const p0 = points + ((<usize>i32x4.extract_lane(mine, 0)) << 3)
  const p1 = points + ((<usize>i32x4.extract_lane(mine, 1)) << 3)
  const p2 = points + ((<usize>i32x4.extract_lane(mine, 2)) << 3)
  const p3 = points + ((<usize>i32x4.extract_lane(mine, 3)) << 3)
  const a01 = v128.load64_lane(p1, v128.load64_zero(p0), 1)
  const a23 = v128.load64_lane(p3, v128.load64_zero(p2), 1)
  const x0 = v128.shuffle<f32>(a01, a23, 0, 2, 4, 6)
  const y0 = v128.shuffle<f32>(a01, a23, 1, 3, 5, 7)
  const ax = f32x4.sub(fx, x0)
  const ay = f32x4.sub(f32x4.splat(fy), y0)
  const zero = f32x4.splat(0)
  let best = f32x4.splat(Infinity)
  let far = best
  let touching = zero
  for (let k = 0; k < count; k++) {
    const point = points + ((<usize>k) << 3)
    const dx = f32x4.sub(v128.load_splat<f32>(point), x0)
    const dy = f32x4.sub(v128.load_splat<f32>(point, 4), y0)
    const square = f32x4.add(f32x4.mul(dx, dx), f32x4.mul(dy, dy))
    if (!v128.any_true(f32x4.le(square, far))) continue
    const isOther = i32x4.ne(mine, i32x4.splat(k))
    const dot = f32x4.add(f32x4.mul(ax, dx), f32x4.mul(ay, dy))
    const d = f32x4.div(f32x4.sub(f32x4.mul(f32x4.splat(0.5), square), dot), f32x4.sqrt(square))
    touching = v128.or(touching, v128.and(f32x4.eq(square, zero), isOther))
    best = v128.bitselect(f32x4.pmin(best, d), best, isOther)
    // |q − p| > 2 (border + |x − p|) cannot come nearer; a hundredth more for what rounding may do.
    const reach = f32x4.mul(f32x4.add(best, first), f32x4.splat(2.01))
    far = f32x4.add(f32x4.mul(reach, reach), f32x4.splat(0.0001))
  }
  return v128.andnot(f32x4.pmax(zero, best), touching)
}

/** The random value and the number of each texel's nearest cell; outputs that nobody asks for are 0. */
export function cellLabels(
  width: i32,
  column: usize,
  own: usize,
  ring: i32,
  iy: i32,
  columns: i32,
  lines: i32,
  seed: i32,
  value: usize,
  id: usize,
): void {
  const side = 2 * ring + 1
  for (let at: usize = 0; at < (<usize>width) << 2; at += 4) {
    const i = load<i32>(own + at)
    let cx = (load<i32>(column + at) + (i % side) - ring) % columns
    if (cx < 0) cx += columns
    let cy = (iy + i / side - ring) % lines
    if (cy < 0) cy += lines
    if (value) store<f32>(value + at, <f32>(hashNumber(<i32>hashNumber(seed + cy) + cx) >>> 8) * 5.9604644775390625e-8)
    if (id) store<i32>(id + at, cy * columns + cx)
  }
}
