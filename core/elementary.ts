/**
 * Elementary functions that give the same bits in every JavaScript engine.
 *
 * `Math.sin, exp, log, pow, atan2, cbrt` may differ in the last place between engines and versions; these use only
 * + − × ÷, sqrt, floor and integer views, which ECMA-262 defines exactly. They work in float64 with a relative error
 * below 1e-12, so that their float32 rounding is almost always the correctly rounded value.
 * Source: argument reduction and series as in J.-M. Muller, "Elementary Functions", chapters 3 and 11; the
 * coefficients are the Taylor ones. The float views below hold no state between calls.
 */
const view = new DataView(new ArrayBuffer(8))
const LN2 = 0.6931471805599453
const SQRT_HALF = 0.7071067811865476

/** Base-2 logarithm. Range: x > 0; −Infinity at 0, NaN below. */
export function log2(x: number): number {
  if (!(x > 0)) return x === 0 ? -Infinity : NaN
  if (x === Infinity) return Infinity
  let shift = 0
  if (x < 2.2250738585072014e-308) {
    x *= 4503599627370496
    shift = -52
  }
  view.setFloat64(0, x)
  const high = view.getUint32(0)
  let exponent = (high >>> 20) - 1023 + shift
  view.setUint32(0, (high & 0x000fffff) | 0x3fe00000)
  let mantissa = view.getFloat64(0) // 0.5 ≤ m < 1
  exponent += 1
  if (mantissa < SQRT_HALF) {
    mantissa *= 2
    exponent -= 1
  }
  const s = (mantissa - 1) / (mantissa + 1)
  const q = s * s
  const series =
    1 + q * (1 / 3 + q * (1 / 5 + q * (1 / 7 + q * (1 / 9 + q * (1 / 11 + q * (1 / 13 + q * (1 / 15 + q / 17)))))))
  return exponent + (2 * s * series) / LN2
}

/** 2 to the power x. Range: any; Infinity above 1024, 0 below −1022 (no subnormal results). */
export function exp2(x: number): number {
  if (x !== x) return NaN
  if (x >= 1024) return Infinity
  if (x < -1022) return 0
  const whole = Math.floor(x + 0.5)
  const r = (x - whole) * LN2
  let sum = 1
  for (let n = 13; n >= 1; n--) sum = 1 + (r / n) * sum
  view.setUint32(0, (whole + 1022) << 20)
  view.setUint32(4, 0)
  return sum * view.getFloat64(0) * 2
}

/** Natural exponential. */
export const exp = (x: number): number => exp2(x / LN2)

/** x to the power y for x ≥ 0. 0 to a positive power is 0, to the power 0 is 1. Range: NaN for x < 0. */
export function pow(x: number, y: number): number {
  if (y === 0) return 1
  if (x === 0) return y > 0 ? 0 : Infinity
  if (x === 1) return 1
  return exp2(y * log2(x))
}

/** Cube root, odd. */
export function cbrt(x: number): number {
  if (x === 0) return 0
  const a = x < 0 ? -x : x
  let root = exp2(log2(a) / 3)
  root -= (root * root * root - a) / (3 * root * root)
  return x < 0 ? -root : root
}

const TAU = 6.283185307179586

/** Sine of an angle in turns. Range: any finite. */
export function sinTurns(turns: number): number {
  let t = turns - Math.floor(turns + 0.5) // −½ ≤ t < ½
  if (t > 0.25) t = 0.5 - t
  else if (t < -0.25) t = -0.5 - t
  const x = t * TAU
  const q = x * x
  let sum = 1
  for (let n = 21; n >= 3; n -= 2) sum = 1 - (q / (n * (n - 1))) * sum
  return x * sum
}

/** Cosine of an angle in turns. Range: any finite. */
export const cosTurns = (turns: number): number => sinTurns(turns + 0.25)

const SQRT3 = 1.7320508075688772
const TAN_PI_12 = 0.2679491924311227

/** The angle of (x, y) in turns, counter-clockwise from +x. Range: −½ < result ≤ ½; 0 for (0, 0). */
export function atan2Turns(y: number, x: number): number {
  const ax = x < 0 ? -x : x
  const ay = y < 0 ? -y : y
  if (ax === 0 && ay === 0) return 0
  const steep = ay > ax
  let t = steep ? ax / ay : ay / ax
  let base = 0
  if (t > TAN_PI_12) {
    t = (t * SQRT3 - 1) / (SQRT3 + t)
    base = 1 / 12
  }
  const q = t * t
  let sum = 0
  for (let n = 23; n >= 1; n -= 2) sum = 1 / n - q * sum
  let turns = base + (t * sum) / TAU
  if (steep) turns = 0.25 - turns
  if (x < 0) turns = 0.5 - turns
  return y < 0 ? -turns : turns
}
