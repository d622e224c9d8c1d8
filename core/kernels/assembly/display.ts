import { encoded } from './srgb'

/** Values on their way to bytes: as they are, −1…1, or linear light that is encoded. */
const SIGNED: i32 = 1
const ENCODED: i32 = 2

/**
 * Twin of byteOf (core/preview/display.ts) for four planes at once: RGBA bytes of `count` texels, whole vectors. A plane at 0 has
 * its byte of `constants` everywhere. `kinds` holds a kind for each plane, two bits each.
 */
export function rgbaRow(
  red: usize,
  green: usize,
  blue: usize,
  alpha: usize,
  out: usize,
  count: i32,
  kinds: i32,
  constants: i32,
): void {
  for (let at: usize = 0; at < (<usize>count) << 2; at += 16) {
    let texels = i32x4.splat(constants)
    if (red != 0) texels = v128.or(texels, bytes(red + at, kinds & 3))
    if (green != 0) texels = v128.or(texels, i32x4.shl(bytes(green + at, (kinds >> 2) & 3), 8))
    if (blue != 0) texels = v128.or(texels, i32x4.shl(bytes(blue + at, (kinds >> 4) & 3), 16))
    if (alpha != 0) texels = v128.or(texels, i32x4.shl(bytes(alpha + at, (kinds >> 6) & 3), 24))
    v128.store(out + at, texels)
  }
}

function bytes(at: usize, kind: i32): v128 {
  let v = v128.load(at)
  if (kind == SIGNED) v = f32x4.add(f32x4.mul(v, f32x4.splat(0.5)), f32x4.splat(0.5))
  else if (kind == ENCODED) v = encoded(v)
  // What is no number is 0, as the saturating conversion has it.
  const scaled = f32x4.add(f32x4.mul(v, f32x4.splat(255)), f32x4.splat(0.5))
  return i32x4.min_s(i32x4.max_s(i32x4.trunc_sat_f32x4_s(scaled), i32x4.splat(0)), i32x4.splat(255))
}

/** Twin of toHalf (core/texture/bytes/half.ts): 16 bits each, whole vectors. */
export function halvesRow(source: usize, out: usize, count: i32): void {
  for (let at: usize = 0; at < (<usize>count) << 2; at += 16) {
    const v = v128.load(source + at)
    const bits = v128.and(v, f32x4.eq(v, v))
    const sign = v128.and(i32x4.shr_u(bits, 16), i32x4.splat(0x8000))
    const magnitude = v128.and(bits, i32x4.splat(0x7fffffff))
    const odd = v128.and(i32x4.shr_u(magnitude, 13), i32x4.splat(1))
    const rounded = i32x4.add(i32x4.add(magnitude, i32x4.splat(0xfff)), odd)
    const normal = i32x4.shr_u(i32x4.sub(rounded, i32x4.splat(0x38000000)), 13)
    // Below 2⁻¹⁴ steps of 2⁻²⁴ are counted; nearest rounds halves to even.
    const steps = i32x4.trunc_sat_f32x4_s(f32x4.nearest(f32x4.mul(magnitude, f32x4.splat(16777216))))
    const small = i32x4.lt_s(magnitude, i32x4.splat(0x38800000))
    const large = i32x4.ge_s(magnitude, i32x4.splat(0x477fe000))
    const half = v128.or(sign, v128.bitselect(i32x4.splat(0x7bff), v128.bitselect(steps, normal, small), large))
    v128.store64_lane(out + (at >> 1), i16x8.narrow_i32x4_u(half, half), 0)
  }
}

/** Twin of a row of reducePlane (core/preview/display.ts): adds the sums over `by` neighbours to float64 `sums`. */
export function addBoxes(source: usize, sums: usize, count: i32, by: i32): void {
  let at = source
  for (let x: usize = 0; x < <usize>count; x++) {
    let sum: f64 = 0
    for (let i = 0; i < by; i++) {
      sum += <f64>load<f32>(at)
      at += 4
    }
    store<f64>(sums + (x << 3), load<f64>(sums + (x << 3)) + sum)
  }
}

/**
 * Twin of a row of histogramOf (core/preview/histogram.ts): counts values into `bins` 32-bit numbers at `found`, over `from` to 1.
 * `range` holds sum, least and greatest as float64.
 */
export function countValues(source: usize, count: i32, found: usize, bins: i32, from: f64, range: usize): void {
  let sum = load<f64>(range)
  let min = load<f64>(range, 8)
  let max = load<f64>(range, 16)
  const span = 1 - from
  for (let at: usize = 0; at < (<usize>count) << 2; at += 4) {
    const v = <f64>load<f32>(source + at)
    if (v < min) min = v
    if (v > max) max = v
    sum += v
    const bin = Math.floor(((v - from) / span) * <f64>bins)
    let index: i32 = 0
    if (bin >= <f64>bins) index = bins - 1
    else if (bin > 0) index = <i32>bin
    const to = found + ((<usize>index) << 2)
    store<i32>(to, load<i32>(to) + 1)
  }
  store<f64>(range, sum)
  store<f64>(range, min, 8)
  store<f64>(range, max, 16)
}
