/** Values of fields stay within this; see VALUE_LIMIT in core/field/limits.ts. */
const LIMIT: f32 = 1e18

/** Twin of bounded (core/field/limits.ts): within the limit; 0 for what is no number, +0 for −0. */
export function bounded(v: v128): v128 {
  const held = f32x4.pmax(f32x4.pmin(v, f32x4.splat(LIMIT)), f32x4.splat(-LIMIT))
  return f32x4.add(v128.and(held, f32x4.eq(held, held)), f32x4.splat(0))
}

/** The same for a number that is stored as float32 after it. */
export function boundedNumber(v: f64): f32 {
  if (v > 1e18) return <f32>1e18
  if (v < -1e18) return <f32>-1e18
  return v == v ? <f32>(v + 0) : 0
}

/** Held to 0–1. */
export function unit(v: v128): v128 {
  return f32x4.pmax(f32x4.pmin(v, f32x4.splat(1)), f32x4.splat(0))
}

/** The first two of four float32 as float64, and the last two. */
export function low(v: v128): v128 {
  return f64x2.promote_low_f32x4(v)
}

export function high(v: v128): v128 {
  return f64x2.promote_low_f32x4(v128.shuffle<i64>(v, v, 1, 1))
}

/** Two pairs of float64 rounded to four float32. */
export function joined(a: v128, b: v128): v128 {
  return v128.shuffle<i64>(f32x4.demote_f64x2_zero(a), f32x4.demote_f64x2_zero(b), 0, 2)
}

/** Two masks of two lanes as one of four. */
export function joinedMask(a: v128, b: v128): v128 {
  return v128.shuffle<i32>(a, b, 0, 2, 4, 6)
}

/** Held to −1…1. */
export function withinOne(v: f64): f64 {
  return v < -1 ? -1 : v > 1 ? 1 : v
}
