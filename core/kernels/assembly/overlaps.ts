/**
 * Triangles of a layout that lie over one another (core/mesh/overlaps.ts). `corners` are six f64 a triangle: u, v of each corner. A grid of
 * `side` × `side` cells holds those that touch it.
 */

/** The sign of each triangle's area (i8, 0 where it has none), and the box of those with any: four f64, least and greatest u and v. */
export function overlapSigns(corners: usize, count: i32, signs: usize, box: usize): void {
  let left = Infinity
  let top = Infinity
  let right = -Infinity
  let bottom = -Infinity
  for (let t: usize = 0; t < <usize>count; t++) {
    const c = corners + t * 48
    const ax = load<f64>(c)
    const ay = load<f64>(c, 8)
    const bx = load<f64>(c, 16)
    const by = load<f64>(c, 24)
    const cx = load<f64>(c, 32)
    const cy = load<f64>(c, 40)
    const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    const sign: i8 = area > 0 ? 1 : area < 0 ? -1 : 0
    store<i8>(signs + t, sign)
    if (sign == 0) continue
    left = min(left, min(ax, min(bx, cx)))
    right = max(right, max(ax, max(bx, cx)))
    top = min(top, min(ay, min(by, cy)))
    bottom = max(bottom, max(ay, max(by, cy)))
  }
  store<f64>(box, left)
  store<f64>(box, top, 8)
  store<f64>(box, right, 16)
  store<f64>(box, bottom, 24)
}

/** The cell of a side that a place lies in, the border's beyond it. */
function cellOf(v: f64, from: f64, scale: f64, side: i32): i32 {
  const at = Math.floor((v - from) * scale)
  return at < 0 ? 0 : at >= <f64>side ? side - 1 : <i32>at
}

/** First and last cell across and down of each triangle (four i32: left, top, right, bottom); gives how many cells all touch. */
export function overlapCells(
  corners: usize,
  count: i32,
  signs: usize,
  boxes: usize,
  left: f64,
  top: f64,
  across: f64,
  down: f64,
  side: i32,
): f64 {
  let total: f64 = 0
  for (let t: usize = 0; t < <usize>count; t++) {
    if (!load<i8>(signs + t)) continue
    const c = corners + t * 48
    const ax = load<f64>(c)
    const ay = load<f64>(c, 8)
    const bx = load<f64>(c, 16)
    const by = load<f64>(c, 24)
    const cx = load<f64>(c, 32)
    const cy = load<f64>(c, 40)
    const x0 = cellOf(min(ax, min(bx, cx)), left, across, side)
    const y0 = cellOf(min(ay, min(by, cy)), top, down, side)
    const x1 = cellOf(max(ax, max(bx, cx)), left, across, side)
    const y1 = cellOf(max(ay, max(by, cy)), top, down, side)
    const to = boxes + (t << 4)
    store<i32>(to, x0)
    store<i32>(to, y0, 4)
    store<i32>(to, x1, 8)
    store<i32>(to, y1, 12)
    total += <f64>(x1 - x0 + 1) * <f64>(y1 - y0 + 1)
  }
  return total
}

/** How many triangles touch each cell, into the number after its own in `starts` (u32, all 0 before), then summed up. */
export function countCells(boxes: usize, signs: usize, count: i32, side: i32, starts: usize): void {
  for (let t: usize = 0; t < <usize>count; t++) {
    if (!load<i8>(signs + t)) continue
    const box = boxes + (t << 4)
    const right = load<i32>(box, 8)
    const bottom = load<i32>(box, 12)
    for (let y = load<i32>(box, 4); y <= bottom; y++)
      for (let x = load<i32>(box); x <= right; x++) {
        const at = starts + ((<usize>(y * side + x)) << 2)
        store<u32>(at, load<u32>(at, 4) + 1, 4)
      }
  }
  let sum: u32 = 0
  for (let i: usize = 0; i <= <usize>(side * side); i++) {
    sum += load<u32>(starts + (i << 2))
    store<u32>(starts + (i << 2), sum)
  }
}

/** Triangles by cell, in order (u32); `next` is a copy of `starts`, which comes to where each cell ends. */
export function listCells(boxes: usize, signs: usize, count: i32, side: i32, next: usize, members: usize): void {
  for (let t: usize = 0; t < <usize>count; t++) {
    if (!load<i8>(signs + t)) continue
    const box = boxes + (t << 4)
    const right = load<i32>(box, 8)
    const bottom = load<i32>(box, 12)
    for (let y = load<i32>(box, 4); y <= bottom; y++)
      for (let x = load<i32>(box); x <= right; x++) {
        const at = next + ((<usize>(y * side + x)) << 2)
        const to = load<u32>(at)
        store<u32>(members + ((<usize>to) << 2), <u32>t)
        store<u32>(at, to + 1)
      }
  }
}

/**
 * Pairs of triangles of which neither has an edge with all of the other on its outer side or on its line, each once, in order (two u32
 * each); how many there are. `~` of that where it stopped: after `tests` pairs looked at, or where there was no room for more. `seen`
 * (u32 a triangle) and `passed` (u32 a cell: how many of its triangles had their turn) are 0 before.
 */
export function overlapPairs(
  corners: usize,
  signs: usize,
  boxes: usize,
  count: i32,
  side: i32,
  starts: usize,
  members: usize,
  seen: usize,
  passed: usize,
  tests: i32,
  pairs: usize,
  room: i32,
): i32 {
  let made = 0
  for (let t = 0; t < count; t++) {
    const sign = load<i8>(signs + <usize>t)
    if (!sign) continue
    const box = boxes + ((<usize>t) << 4)
    const right = load<i32>(box, 8)
    const bottom = load<i32>(box, 12)
    for (let y = load<i32>(box, 4); y <= bottom; y++)
      for (let x = load<i32>(box); x <= right; x++) {
        const cell = (<usize>(y * side + x)) << 2
        const own = load<u32>(passed + cell) + 1
        store<u32>(passed + cell, own)
        const end = load<u32>(starts + cell, 4)
        for (let i = load<u32>(starts + cell) + own; i < end; i++) {
          const other = load<u32>(members + ((<usize>i) << 2))
          // Each pair once, however many cells it shares.
          const mark = seen + ((<usize>other) << 2)
          if (load<i32>(mark) == t + 1) continue
          store<i32>(mark, t + 1)
          if (--tests < 0) return ~made
          const one = corners + <usize>t * 48
          const two = corners + <usize>other * 48
          if (isApart(<f64>sign, one, two) || isApart(<f64>load<i8>(signs + <usize>other), two, one)) continue
          if (made == room) return ~made
          store<u32>(pairs + ((<usize>made) << 3), <u32>t)
          store<u32>(pairs + ((<usize>made) << 3), other, 4)
          made++
        }
      }
  }
  return made
}

/** Whether an edge of one triangle has all of another on its outer side, or on its line; `sign` is that of its area. */
function isApart(sign: f64, one: usize, other: usize): bool {
  const ox = load<f64>(other)
  const oy = load<f64>(other, 8)
  const px = load<f64>(other, 16)
  const py = load<f64>(other, 24)
  const qx = load<f64>(other, 32)
  const qy = load<f64>(other, 40)
  for (let e: usize = 0; e < 48; e += 16) {
    const ax = load<f64>(one + e)
    const ay = load<f64>(one + e, 8)
    const next = e == 32 ? one : one + e + 16
    const dx = (load<f64>(next) - ax) * sign
    const dy = (load<f64>(next, 8) - ay) * sign
    if (
      dx * (oy - ay) - dy * (ox - ax) <= 0 &&
      dx * (py - ay) - dy * (px - ax) <= 0 &&
      dx * (qy - ay) - dy * (qx - ax) <= 0
    )
      return true
  }
  return false
}
