import { high, joined, joinedMask, low } from './lanes'

/** Twins of core/kernels/contour-distance.ts and distance-transform.ts, over a torus of `width` × `height` values. */
const NOWHERE: i32 = -32768
const AWAY: f64 = 1.0 / 1024.0

/** A row of values less a level. */
export function levelled(source: usize, out: usize, width: i32, level: f64): void {
  for (let at: usize = 0; at < (<usize>width) << 2; at += 4)
    store<f32>(out + at, <f32>(<f64>load<f32>(source + at) - level))
}

/**
 * Twins of crossingParts and waysDown for columns `left` to `right`: the ways down from each value to where its column passes 0.
 * `part` has room for those columns, `last` for as many float64 and four more.
 */
export function waysDown(
  values: usize,
  out: usize,
  part: usize,
  last: usize,
  width: i32,
  height: i32,
  left: i32,
  right: i32,
): void {
  const line = (<usize>width) << 2
  const first = (<usize>left) << 2
  const strip = (<usize>(right - left)) << 2
  // Four columns at a time, then what is left of them one by one.
  const vectors = strip & ~(<usize>15)
  for (let y = 0; y < height; y++) {
    const row = values + <usize>y * line + first
    const next = values + <usize>(y + 1 == height ? 0 : y + 1) * line + first
    const to = part + <usize>y * strip
    let at: usize = 0
    for (; at < vectors; at += 16) v128.store(to + at, partsOf(v128.load(row + at), v128.load(next + at)))
    for (; at < strip; at += 4) {
      const a = <f64>load<f32>(row + at)
      const b = <f64>load<f32>(next + at)
      store<f32>(to + at, a >= 0 == b >= 0 ? NaN : <f32>Math.max(AWAY, Math.min(1 - AWAY, a / (a - b))))
    }
  }
  // Twice around each way, so that what lies across the border is known; the second time counts.
  const none = f64x2.splat(NaN)
  const one = f64x2.splat(1)
  for (let at: usize = 0; at < strip + 16; at += 8) v128.store(last + (at << 1), none)
  for (let i = 0; i < 2 * height; i++) {
    const y = <usize>(i % height)
    const row = out + y * line + first
    const from = part + y * strip
    const counts = i >= height
    let at: usize = 0
    for (; at < vectors; at += 16) {
      const to = last + (at << 1)
      const near = f64x2.sub(v128.load(to), one)
      const far = f64x2.sub(v128.load(to, 16), one)
      if (counts) v128.store(row + at, joined(near, far))
      const here = v128.load(from + at)
      v128.store(to, known(low(here), near))
      v128.store(to, known(high(here), far), 16)
    }
    for (; at < strip; at += 4) {
      const way = load<f64>(last + (at << 1)) - 1
      if (counts) store<f32>(row + at, <f32>way)
      const here = <f64>load<f32>(from + at)
      store<f64>(last + (at << 1), here == here ? here : way)
    }
  }
  for (let at: usize = 0; at < strip + 16; at += 8) v128.store(last + (at << 1), none)
  for (let i = 0; i < 2 * height; i++) {
    const y = <usize>(height - 1 - (i % height))
    const row = out + y * line + first
    const from = part + y * strip
    const counts = i >= height
    let at: usize = 0
    for (; at < vectors; at += 16) {
      const to = last + (at << 1)
      const here = v128.load(from + at)
      const near = known(low(here), f64x2.add(v128.load(to), one))
      const far = known(high(here), f64x2.add(v128.load(to, 16), one))
      v128.store(to, near)
      v128.store(to, far, 16)
      if (!counts) continue
      const above = v128.load(row + at)
      const shorter = joinedMask(isShorter(near, low(above)), isShorter(far, high(above)))
      v128.store(row + at, v128.bitselect(joined(near, far), above, shorter))
    }
    for (; at < strip; at += 4) {
      const here = <f64>load<f32>(from + at)
      const way = here == here ? here : load<f64>(last + (at << 1)) + 1
      store<f64>(last + (at << 1), way)
      if (!counts) continue
      const above = <f64>load<f32>(row + at)
      if (above != above || way < -above) store<f32>(row + at, <f32>way)
    }
  }
}

/** Twin of crossingParts for four values and those below them. */
function partsOf(here: v128, below: v128): v128 {
  const zero = f32x4.splat(0)
  const same = v128.not(v128.xor(f32x4.ge(here, zero), f32x4.ge(below, zero)))
  const part = joined(partOf(low(here), low(below)), partOf(high(here), high(below)))
  return v128.bitselect(f32x4.splat(NaN), part, same)
}

function partOf(a: v128, b: v128): v128 {
  const part = f64x2.div(a, f64x2.sub(a, b))
  return f64x2.max(f64x2.splat(AWAY), f64x2.min(f64x2.splat(1 - AWAY), part))
}

/** A number, or what stands for it where it is none. */
function known(v: v128, otherwise: v128): v128 {
  return v128.bitselect(v, otherwise, f64x2.eq(v, v))
}

/** Where a way down is shorter than the way up that is known, or none is. */
function isShorter(way: v128, above: v128): v128 {
  return v128.or(f64x2.ne(above, above), f64x2.lt(way, f64x2.neg(above)))
}

/**
 * Twin of the rows of nearestCrossings from `y` to `end`: the columns across to the nearest crossing, two bytes each. `squares`,
 * `place` and `from` have room for twice a row and two more: float64, words, float64. Crossings more than `margin` columns
 * away, or with a square over `beyond`, are left out.
 */
export function nearestAcross(
  down: usize,
  across: usize,
  squares: usize,
  place: usize,
  from: usize,
  width: i32,
  y: i32,
  end: i32,
  margin: i32,
  beyond: f64,
): void {
  const length = width + 2 * margin
  for (; y < end; y++) {
    const row = down + ((<usize>(y * width)) << 2)
    const to = across + ((<usize>(y * width)) << 1)
    let column = width - margin
    if (column == width) column = 0
    for (let i = 0; i < length; i++) {
      const d = <f64>load<f32>(row + ((<usize>column) << 2))
      store<f64>(squares + ((<usize>i) << 3), d * d)
      if (++column == width) column = 0
    }
    const count = lowerEnvelope(squares, length, place, from, beyond)
    let k = 0
    for (let x = 0; x < width; x++) {
      if (count == 0) {
        store<i16>(to + ((<usize>x) << 1), <i16>NOWHERE)
        continue
      }
      const q = x + margin
      while (k + 1 < count && load<f64>(from + ((<usize>(k + 1)) << 3)) < <f64>q) k++
      store<i16>(to + ((<usize>x) << 1), <i16>(load<i32>(place + ((<usize>k) << 2)) - q))
    }
  }
}

/** Twin of lowerEnvelope. */
function lowerEnvelope(f: usize, length: i32, place: usize, from: usize, beyond: f64): i32 {
  let count = 0
  for (let q = 0; q < length; q++) {
    const high = load<f64>(f + ((<usize>q) << 3))
    // What is no number is left out too.
    if (!(high <= beyond)) continue
    const at = <f64>q
    let start: f64 = -Infinity
    while (count > 0) {
      const p = load<i32>(place + ((<usize>(count - 1)) << 2))
      const before = <f64>p
      const low = load<f64>(f + ((<usize>p) << 3))
      start = (high + at * at - (low + before * before)) / (2 * (at - before))
      if (start > load<f64>(from + ((<usize>(count - 1)) << 3))) break
      count--
      start = -Infinity
    }
    store<i32>(place + ((<usize>count) << 2), q)
    store<f64>(from + ((<usize>count) << 3), start)
    count++
  }
  return count
}

/** Rows `y` to `end` become columns, in squares that a cache holds. */
export function transpose(values: usize, out: usize, width: i32, height: i32, y: i32, end: i32): void {
  for (let top = y; top < end; top += 16)
    for (let left = 0; left < width; left += 16) {
      const bottom = top + 16 < end ? top + 16 : end
      const right = left + 16 < width ? left + 16 : width
      for (let x = left; x < right; x++)
        for (let y = top; y < bottom; y++)
          store<f32>(out + ((<usize>(x * height + y)) << 2), load<f32>(values + ((<usize>(y * width + x)) << 2)))
    }
}

/**
 * Twin of the rows of contourDistance from `y` to `end`: how far the line is, on one side of it. `across` and `down` are those
 * of rows, `over` and `along` those of columns, whose rows stand upright. Where the
 * squares of the ways to both crossings are `beyond` or more, `far` is given.
 */
export function contourDistances(
  values: usize,
  across: usize,
  down: usize,
  over: usize,
  along: usize,
  out: usize,
  width: i32,
  height: i32,
  y: i32,
  end: i32,
  outside: bool,
  beyond: f64,
  far: f64,
): void {
  const wide = <f64>width
  for (; y < end; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x
      const to = out + ((<usize>i) << 2)
      if (load<f32>(values + ((<usize>i) << 2)) >= 0 == outside) {
        store<f32>(to, 0)
        continue
      }
      let min: f64 = Infinity
      const dx = <i32>load<i16>(across + ((<usize>i) << 1))
      const dy = <i32>load<i16>(over + ((<usize>(x * height + y)) << 1))
      // The nearest crossings of columns and of rows: how far down, how far across.
      const way: f64 =
        dx == NOWHERE ? Infinity : <f64>load<f32>(down + ((<usize>(y * width + wrapped(x + dx, width))) << 2))
      const aside: f64 =
        dy == NOWHERE ? Infinity : <f64>load<f32>(along + ((<usize>(x * height + wrapped(y + dy, height))) << 2))
      if (<f64>(dx * dx) + way * way >= beyond && <f64>(dy * dy) + aside * aside >= beyond) {
        store<f32>(to, <f32>far)
        continue
      }
      if (dx != NOWHERE) {
        const dy = <i32>Math.floor(way)
        min = Math.min(squareTo(values, width, height, x, y, dx, dy), squareTo(values, width, height, x, y, dx - 1, dy))
      }
      if (dy != NOWHERE) {
        const sideways = <i32>Math.floor(aside)
        min = Math.min(
          Math.min(min, squareTo(values, width, height, x, y, sideways, dy)),
          squareTo(values, width, height, x, y, sideways, dy - 1),
        )
      }
      store<f32>(to, <f32>(Math.sqrt(min) / wide))
    }
}

function wrapped(i: i32, n: i32): i32 {
  if (i >= 0 && i < n) return i
  const rest = i % n
  return rest < 0 ? rest + n : rest
}

/** Where the line meets the sides of a cell, going round from the top: ends in texels from the cell's first corner. */
let u0: f64 = 0
let v0: f64 = 0
let u1: f64 = 0
let v1: f64 = 0
let u2: f64 = 0
let v2: f64 = 0
let u3: f64 = 0
let v3: f64 = 0
let ends = 0

function meet(u: f64, v: f64): void {
  if (ends == 0) {
    u0 = u
    v0 = v
  } else if (ends == 1) {
    u1 = u
    v1 = v
  } else if (ends == 2) {
    u2 = u
    v2 = v
  } else {
    u3 = u
    v3 = v
  }
  ends++
}

/** Square of the distance from the middle of a texel to what the cell at (x + dx, y + dy) holds of the line. */
function squareTo(values: usize, width: i32, height: i32, x: i32, y: i32, dx: i32, dy: i32): f64 {
  const cx = wrapped(x + dx, width)
  const cy = wrapped(y + dy, height)
  const next = (<usize>(cx + 1 == width ? 0 : cx + 1)) << 2
  const here = values + ((<usize>(cy * width)) << 2)
  const below = values + ((<usize>((cy + 1 == height ? 0 : cy + 1) * width)) << 2)
  const at = (<usize>cx) << 2
  const a = <f64>load<f32>(here + at)
  const b = <f64>load<f32>(here + next)
  const c = <f64>load<f32>(below + next)
  const d = <f64>load<f32>(below + at)
  const inside = a >= 0
  if (b >= 0 == inside && c >= 0 == inside && d >= 0 == inside) return Infinity
  ends = 0
  if (a >= 0 != b >= 0) meet(a / (a - b), 0)
  if (b >= 0 != c >= 0) meet(1, b / (b - c))
  if (d >= 0 != c >= 0) meet(d / (d - c), 1)
  if (a >= 0 != d >= 0) meet(0, a / (a - d))
  const ox = <f64>dx
  const oy = <f64>dy
  if (ends == 2) return squareToSegment(u0, v0, u1, v1, ox, oy)
  if (a + b + c + d >= 0 == inside)
    return Math.min(squareToSegment(u0, v0, u1, v1, ox, oy), squareToSegment(u2, v2, u3, v3, ox, oy))
  return Math.min(squareToSegment(u3, v3, u0, v0, ox, oy), squareToSegment(u1, v1, u2, v2, ox, oy))
}

/** Twin of squareToSegment. */
function squareToSegment(x0: f64, y0: f64, x1: f64, y1: f64, dx: f64, dy: f64): f64 {
  const ax = x0 + dx
  const ay = y0 + dy
  const ux = x1 + dx - ax
  const uy = y1 + dy - ay
  const length = ux * ux + uy * uy
  const t: f64 = length > 0 ? Math.max(0, Math.min(1, -(ax * ux + ay * uy) / length)) : 0
  const px = ax + t * ux
  const py = ay + t * uy
  return px * px + py * py
}
