import { PLANE, lowest, readBlock, sum, texels, within, workAt } from './block-texels'

/*
 * Channels of blocks as BC4: two ends and sixteen indices of 3 bits; a first end that is larger makes eight tones, else there are six and
 * 0 and 255.
 * Source: Khronos Data Format Specification 1.3, chapter 19; ends by least squares over the indices, then by looking around.
 */

/** The sixteen values at hand. */
let values: usize = 0
/** The nearest ends so far, and how far off they are. */
let bestA: f32 = 0
let bestB: f32 = 0
let best: f32 = 0

/** How far along from `a` to `b` in `steps` values lie, to the nearest step. */
function stepsAlong(v: v128, a: f32, scale: f32, steps: f32): v128 {
  const along = f32x4.mul(f32x4.sub(v, f32x4.splat(a)), f32x4.splat(scale))
  return f32x4.floor(f32x4.add(f32x4.pmin(f32x4.splat(steps), f32x4.pmax(f32x4.splat(0), along)), f32x4.splat(0.5)))
}

/** The tone at a step, rounded as decoders do, relative to a value. */
function offAt(t: v128, a: f32, b: f32, steps: f32, v: v128): v128 {
  const whole = f32x4.add(f32x4.mul(t, f32x4.splat(b - a)), f32x4.splat(steps * a + f32.floor(steps * 0.5)))
  return f32x4.sub(f32x4.floor(f32x4.div(whole, f32x4.splat(steps))), v)
}

/** The sum of squares that the nearest tones of two ends are off. */
function errorOf(a: f32, b: f32): f32 {
  const steps: f32 = a > b ? 7 : 5
  const scale: f32 = a == b ? 0 : steps / (b - a)
  let all = f32x4.splat(0)
  for (let q: usize = 0; q < PLANE; q += 16) {
    const v = v128.load(values + q)
    const d = offAt(stepsAlong(v, a, scale, steps), a, b, steps, v)
    let square = f32x4.mul(d, d)
    if (steps == 5) {
      const up = f32x4.sub(f32x4.splat(255), v)
      square = f32x4.pmin(square, f32x4.pmin(f32x4.mul(v, v), f32x4.mul(up, up)))
    }
    all = f32x4.add(all, square)
  }
  return sum(all)
}

function look(a: f32, b: f32): bool {
  const error = errorOf(a, b)
  if (error >= best) return false
  best = error
  bestA = a
  bestB = b
  return true
}

/** Looks at the ends that fit the values best at the steps of the best ones; false where those do not tell or are no better. */
function leastSquares(): bool {
  const steps: f32 = bestA > bestB ? 7 : 5
  if (bestA == bestB) return false
  const scale = steps / (bestB - bestA)
  let aa = f32x4.splat(0)
  let ab = f32x4.splat(0)
  let bb = f32x4.splat(0)
  let av = f32x4.splat(0)
  let bv = f32x4.splat(0)
  for (let q: usize = 0; q < PLANE; q += 16) {
    const v = v128.load(values + q)
    const t = stepsAlong(v, bestA, scale, steps)
    const b = f32x4.mul(t, f32x4.splat(<f32>1 / steps))
    let a = f32x4.sub(f32x4.splat(1), b)
    let counts = f32x4.splat(1)
    if (steps == 5) {
      // What 0 and 255 serve does not count.
      const d = offAt(t, bestA, bestB, steps, v)
      const up = f32x4.sub(f32x4.splat(255), v)
      const other = f32x4.pmin(f32x4.mul(v, v), f32x4.mul(up, up))
      counts = v128.and(f32x4.le(f32x4.mul(d, d), other), counts)
    }
    const own = f32x4.mul(b, counts)
    a = f32x4.mul(a, counts)
    aa = f32x4.add(aa, f32x4.mul(a, a))
    ab = f32x4.add(ab, f32x4.mul(a, own))
    bb = f32x4.add(bb, f32x4.mul(own, own))
    av = f32x4.add(av, f32x4.mul(a, v))
    bv = f32x4.add(bv, f32x4.mul(own, v))
  }
  const AA = sum(aa)
  const AB = sum(ab)
  const BB = sum(bb)
  const det = AA * BB - AB * AB
  if (det < 0.01) return false
  const AV = sum(av)
  const BV = sum(bv)
  const a = f32.floor(within((AV * BB - BV * AB) / det) + 0.5)
  const b = f32.floor(within((BV * AA - AV * AB) / det) + 0.5)
  return a > b == bestA > bestB && look(a, b)
}

/** Sixteen values of 0–255 as a block, eight bytes at `out`. Least squares `rounds` times, then ends up to `reach` from the best. */
export function greyBlock(from: usize, rounds: i32, reach: i32, out: usize): void {
  values = from
  let low = f32x4.splat(255)
  let high = f32x4.splat(0)
  let innerLow = f32x4.splat(255)
  let innerHigh = f32x4.splat(0)
  for (let q: usize = 0; q < PLANE; q += 16) {
    const v = v128.load(from + q)
    low = f32x4.pmin(low, v)
    high = f32x4.pmax(high, v)
    const inner = v128.and(f32x4.gt(v, f32x4.splat(0)), f32x4.lt(v, f32x4.splat(255)))
    innerLow = f32x4.pmin(innerLow, v128.bitselect(v, f32x4.splat(255), inner))
    innerHigh = f32x4.pmax(innerHigh, v128.bitselect(v, f32x4.splat(0), inner))
  }
  const lo = lowest(low)
  const hi = <f32>255 - lowest(f32x4.sub(f32x4.splat(255), high))
  best = Infinity
  look(hi, lo)
  // The ends of the range itself come for nothing where there are only six tones.
  if (rounds > 0 && best > 0 && (lo == 0 || hi == 255)) {
    const a = lowest(innerLow)
    const b = <f32>255 - lowest(f32x4.sub(f32x4.splat(255), innerHigh))
    if (a <= b) look(a, b)
    else look(0, 0)
  }
  for (let i: i32 = 0; i < rounds && best > 0; i++) if (!leastSquares()) break
  for (let moved = reach > 0; moved && best > 0;) {
    moved = false
    const a = bestA
    const b = bestB
    for (let i = -reach; i <= reach; i++)
      for (let j = -reach; j <= reach; j++) {
        const p = a + <f32>i
        const q = b + <f32>j
        if (p < 0 || q < 0 || p > 255 || q > 255 || p > q != a > b) continue
        if (look(p, q)) moved = true
      }
  }
  write(out)
}

function write(out: usize): void {
  const steps: f32 = bestA > bestB ? 7 : 5
  const scale: f32 = bestA == bestB ? 0 : steps / (bestB - bestA)
  let bits: u64 = 0
  for (let i: usize = 0; i < 16; i++) {
    const v = load<f32>(values + (i << 2))
    const step = <u64>f32x4.extract_lane(stepsAlong(f32x4.splat(v), bestA, scale, steps), 0)
    let index: u64 = step == 0 ? 0 : step == <u64>steps ? 1 : step + 1
    if (steps == 5) {
      const d = f32x4.extract_lane(offAt(f32x4.splat(<f32>step), bestA, bestB, steps, f32x4.splat(v)), 0)
      const up = <f32>255 - v
      if (v * v < d * d && v <= up) index = 6
      else if (up * up < d * d) index = 7
    }
    bits |= index << (i * 3)
  }
  store<u64>(out, (bits << 16) | ((<u64>bestB) << 8) | (<u64>bestA))
}

/**
 * Rows of RGBA bytes as blocks of BC4 (their red) or BC5 (red and green: `channels` 2). `work` holds 1 kB. `rounds` of least squares, ends
 * looked for up to `reach` around.
 */
export function encodeGreys(
  rgba: usize,
  width: i32,
  rows: i32,
  channels: i32,
  rounds: i32,
  reach: i32,
  work: usize,
  out: usize,
): void {
  workAt(work)
  for (let by: i32 = 0; by * 4 < rows; by++)
    for (let bx: i32 = 0; bx * 4 < width; bx++) {
      readBlock(rgba, width, rows, bx, by)
      for (let c: i32 = 0; c < channels; c++) {
        greyBlock(texels + <usize>c * PLANE, rounds, reach, out)
        out += 8
      }
    }
}
