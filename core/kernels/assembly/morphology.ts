import { high, joined, low } from './lanes'

/**
 * Twins of rowTables and widen (core/kernels/morphology.ts): a row with its maxima over windows of 1, 2, 4 … texels, and any
 * window as the larger of two. The order of comparisons is that of the definition, so that what is no number is left out.
 */

/** Makes `levels` tables, `stride` bytes apart, from the row in the first of them; `bytes` is a multiple of 16. */
export function windowTables(table: usize, stride: usize, levels: i32, bytes: usize): void {
  let from = table
  let step: usize = 4
  for (let level = 1; level < levels; level++) {
    const to = from + stride
    for (let x: usize = 0; x < bytes; x += 16)
      v128.store(to + x, f32x4.pmax(v128.load(from + x + step), v128.load(from + x)))
    from = to
    step <<= 1
  }
}

/**
 * Brings a row's maxima into `rows` rows of results, `bytes` each: for each row a half width in texels, or −1 where the row
 * is too far. `middle` is the byte offset of the first texel within a table; half widths beyond `most` are as wide as that.
 */
export function widenRows(
  table: usize,
  stride: usize,
  middle: usize,
  halves: usize,
  most: i32,
  into: usize,
  rows: i32,
  bytes: usize,
): void {
  for (let row = 0; row < rows; row++) {
    const half = load<i32>(halves + ((<usize>row) << 2))
    if (half < 0) continue
    const side = min(half, most)
    const window = 2 * side + 1
    const level = 31 - clz(window)
    const first = table + <usize>level * stride + middle - ((<usize>side) << 2)
    const second = first + ((<usize>(window - (1 << level))) << 2)
    const to = into + <usize>row * bytes
    for (let x: usize = 0; x < bytes; x += 16) {
      const widest = f32x4.pmax(v128.load(second + x), v128.load(first + x))
      v128.store(to + x, f32x4.pmax(v128.load(to + x), widest))
    }
  }
}

/** sign · (inner + share · (outer − inner)) + 0 in float64; whole vectors. */
export function mixedExtremes(inner: usize, outer: usize, share: f64, sign: f64, out: usize, bytes: usize): void {
  const t = f64x2.splat(share)
  const s = f64x2.splat(sign)
  for (let x: usize = 0; x < bytes; x += 16) {
    const a = v128.load(inner + x)
    const b = v128.load(outer + x)
    v128.store(out + x, joined(mixed(low(a), low(b), t, s), mixed(high(a), high(b), t, s)))
  }
}

function mixed(a: v128, b: v128, t: v128, s: v128): v128 {
  return f64x2.add(f64x2.mul(s, f64x2.add(a, f64x2.mul(f64x2.sub(b, a), t))), f64x2.splat(0))
}

/** sign · v + 0 over `bytes` of values. */
export function signedValues(from: usize, sign: f32, out: usize, bytes: usize): void {
  const s = f32x4.splat(sign)
  for (let x: usize = 0; x < bytes; x += 16)
    v128.store(out + x, f32x4.add(f32x4.mul(s, v128.load(from + x)), f32x4.splat(0)))
}
