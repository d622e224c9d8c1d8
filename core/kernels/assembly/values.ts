import { atan2Turns, pow, sinTurns } from './elementary'
import { bounded, boundedNumber, high, joined, joinedMask, low } from './lanes'

/** Twins of core/kernels/values.ts and arithmetic.ts. Runs of `count` values are rounded up to a multiple of 4. */

/** to + span · (v − from) / width in float64, the share held to 0–1 where `clamp` says so. */
export function remap(
  source: usize,
  out: usize,
  count: i32,
  from: f64,
  width: f64,
  to: f64,
  span: f64,
  clamp: bool,
): void {
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const v = v128.load(source + i)
    const a = remapped(low(v), from, width, to, span, clamp)
    const b = remapped(high(v), from, width, to, span, clamp)
    v128.store(out + i, bounded(joined(a, b)))
  }
}

function remapped(v: v128, from: f64, width: f64, to: f64, span: f64, clamp: bool): v128 {
  let t = f64x2.div(f64x2.sub(v, f64x2.splat(from)), f64x2.splat(width))
  if (clamp) t = f64x2.pmin(f64x2.pmax(t, f64x2.splat(0)), f64x2.splat(1))
  return f64x2.add(f64x2.splat(to), f64x2.mul(f64x2.splat(span), t))
}

/** smoothstep (core/kernels/point.ts) of values over a range in float64. */
export function threshold(source: usize, out: usize, count: i32, from: f64, to: f64): void {
  const width = f32x4.splat(<f32>(to - from))
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16)
    v128.store(out + i, smoothed(v128.load(source + i), from, to, width))
}

export function smoothed(v: v128, from: f64, to: f64, width: v128): v128 {
  const a = low(v)
  const b = high(v)
  const t = f32x4.div(joined(f64x2.sub(a, f64x2.splat(from)), f64x2.sub(b, f64x2.splat(from))), width)
  const above = joinedMask(f64x2.ge(a, f64x2.splat(to)), f64x2.ge(b, f64x2.splat(to)))
  const below = joinedMask(f64x2.le(a, f64x2.splat(from)), f64x2.le(b, f64x2.splat(from)))
  const zero = f32x4.splat(0)
  return v128.bitselect(f32x4.splat(1), v128.bitselect(zero, eased(t), below), above)
}

/** 3t² − 2t³. */
function eased(t: v128): v128 {
  return f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.mul(f32x4.splat(2), t)))
}

/** applyLevels (core/kernels/levels.ts) where gamma is not 1; `from` and `to` differ. */
export function levels(
  source: usize,
  out: usize,
  count: i32,
  from: f64,
  width: f64,
  exponent: f64,
  to: f64,
  span: f64,
  clamp: bool,
): void {
  for (let i: usize = 0; i < (<usize>count) << 2; i += 4) {
    let t = (<f64>load<f32>(source + i) - from) / width
    if (clamp) t = t < 0 ? 0 : t > 1 ? 1 : t
    t = t < 0 ? -pow(-t, exponent) : pow(t, exponent)
    store<f32>(out + i, boundedNumber(<f64>(<f32>(to + span * t))))
  }
}

/** monotoneCurve (core/kernels/curve.ts); `points` holds place, value, slope of each, and its distance to the next. */
export function curve(source: usize, out: usize, count: i32, points: usize, pieces: i32): void {
  const last = points + ((<usize>pieces) << 5)
  for (let i: usize = 0; i < (<usize>count) << 2; i += 4) {
    const v = <f64>load<f32>(source + i)
    let y: f64
    if (v <= load<f64>(points)) y = load<f64>(points, 8)
    else if (v >= load<f64>(last)) y = load<f64>(last, 8)
    else {
      let p = points
      while (v >= load<f64>(p, 32)) p += 32
      const h = load<f64>(p, 24)
      const t = (v - load<f64>(p)) / h
      const s = 1.0 - t
      y =
        load<f64>(p, 8) * (1.0 + 2.0 * t) * s * s +
        load<f64>(p, 40) * t * t * (3.0 - 2.0 * t) +
        h * (load<f64>(p, 16) * t * s * s - load<f64>(p, 48) * t * t * s)
    }
    store<f32>(out + i, boundedNumber(<f64>(<f32>y)))
  }
}

/** biasAndGain (core/kernels/values.ts), with 1/a − 2 of each. */
export function biasGain(source: usize, out: usize, count: i32, bias: f64, gain: f64): void {
  const one = f64x2.splat(1)
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const v = v128.load(source + i)
    v128.store(out + i, bounded(joined(leaned(low(v), bias, gain, one), leaned(high(v), bias, gain, one))))
  }
}

function leaned(v: v128, bias: f64, gain: f64, one: v128): v128 {
  const held = f64x2.pmin(f64x2.pmax(v, f64x2.splat(0)), one)
  const t = biased(held, bias, one)
  const half = f64x2.splat(0.5)
  const twice = f64x2.mul(f64x2.splat(2), t)
  const isLow = f64x2.lt(t, half)
  const b = biased(v128.bitselect(twice, f64x2.sub(f64x2.splat(2), twice), isLow), gain, one)
  const low = f64x2.mul(b, half)
  return v128.bitselect(low, f64x2.sub(one, low), isLow)
}

function biased(t: v128, lean: f64, one: v128): v128 {
  return f64x2.div(t, f64x2.add(f64x2.mul(f64x2.splat(lean), f64x2.sub(one, t)), one))
}

/**
 * An operation of core/kernels/arithmetic.ts by its number in MATH there, that float32 or float64 lanes can do. `bStep` and
 * `cStep` are 16, or 0 where four equal values stand for all.
 */
export function math(
  operation: i32,
  a: usize,
  b: usize,
  bStep: usize,
  c: usize,
  cStep: usize,
  out: usize,
  count: i32,
): void {
  let bAt = b
  let cAt = c
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    v128.store(out + i, bounded(computed(operation, v128.load(a + i), v128.load(bAt), v128.load(cAt))))
    bAt += bStep
    cAt += cStep
  }
}

function computed(operation: i32, a: v128, b: v128, c: v128): v128 {
  const zero = f32x4.splat(0)
  switch (operation) {
    case 0:
      return f32x4.add(a, b)
    case 1:
      return f32x4.sub(a, b)
    case 2:
      return f32x4.mul(a, b)
    case 3:
      return v128.bitselect(zero, f32x4.div(a, b), f32x4.eq(b, zero))
    case 4:
      return v128.bitselect(zero, joined(modulo(low(a), low(b)), modulo(high(a), high(b))), f32x4.eq(b, zero))
    case 5:
      return f32x4.pmin(b, a)
    case 6:
      return f32x4.pmax(b, a)
    case 7:
      return v128.and(f32x4.splat(1), f32x4.ge(a, b))
    case 8: {
      const t = f32x4.div(f32x4.sub(a, b), f32x4.sub(c, b))
      return v128.bitselect(f32x4.splat(1), v128.bitselect(zero, eased(t), f32x4.le(a, b)), f32x4.ge(a, c))
    }
    case 9:
      return joined(mixed(low(a), low(b), low(c)), mixed(high(a), high(b), high(c)))
    case 10:
      return f32x4.floor(a)
    default:
      return v128.bitselect(f32x4.neg(a), a, f32x4.lt(a, zero))
  }
}

function modulo(a: v128, b: v128): v128 {
  return f64x2.sub(a, f64x2.mul(b, f64x2.floor(f64x2.div(a, b))))
}

function mixed(a: v128, b: v128, t: v128): v128 {
  return f64x2.add(a, f64x2.mul(f64x2.sub(b, a), t))
}

/** The operations that are done number by number: 0 power, 1 sine, 2 atan2. Steps are 4 or 0. */
export function mathByNumber(operation: i32, a: usize, b: usize, bStep: usize, out: usize, count: i32): void {
  let bAt = b
  for (let i: usize = 0; i < (<usize>count) << 2; i += 4) {
    const x = <f64>load<f32>(a + i)
    const y = <f64>load<f32>(bAt)
    const v = operation == 0 ? (x < 0 ? 0.0 : pow(x, y)) : operation == 1 ? sinTurns(x) : atan2Turns(x, y)
    store<f32>(out + i, boundedNumber(<f64>(<f32>v)))
    bAt += bStep
  }
}

/**
 * What height-blend (core/nodes/combine/height-blend.ts) makes of two heights: the second one raised, and the share of the
 * second.
 */
export function heightShare(
  first: usize,
  second: usize,
  raised: usize,
  share: usize,
  count: i32,
  raise: f64,
  from: f64,
  to: f64,
): void {
  const width = f32x4.splat(<f32>(to - from))
  const up = f64x2.splat(raise)
  for (let i: usize = 0; i < (<usize>count) << 2; i += 16) {
    const s = v128.load(second + i)
    const top = joined(f64x2.add(low(s), up), f64x2.add(high(s), up))
    v128.store(raised + i, top)
    v128.store(share + i, smoothed(f32x4.sub(top, v128.load(first + i)), from, to, width))
  }
}
