/** Twins of core/elementary.ts, number by number in float64. */
const LN2: f64 = 0.6931471805599453
const SQRT_HALF: f64 = 0.7071067811865476
const TAU: f64 = 6.283185307179586
const SQRT3: f64 = 1.7320508075688772
const TAN_PI_12: f64 = 0.2679491924311227

export function log2(value: f64): f64 {
  let x = value
  if (!(x > 0)) return x == 0 ? -Infinity : NaN
  if (x == Infinity) return Infinity
  let shift = 0
  if (x < 2.2250738585072014e-308) {
    x *= 4503599627370496
    shift = -52
  }
  const bits = reinterpret<u64>(x)
  let exponent = <i32>(bits >> 52) - 1022 + shift
  let mantissa = reinterpret<f64>((bits & 0x000fffffffffffff) | 0x3fe0000000000000)
  if (mantissa < SQRT_HALF) {
    mantissa *= 2
    exponent -= 1
  }
  const s = (mantissa - 1) / (mantissa + 1)
  const q = s * s
  const series: f64 =
    1.0 +
    q *
      (1.0 / 3.0 +
        q *
          (1.0 / 5.0 +
            q * (1.0 / 7.0 + q * (1.0 / 9.0 + q * (1.0 / 11.0 + q * (1.0 / 13.0 + q * (1.0 / 15.0 + q / 17.0)))))))
  return <f64>exponent + (2.0 * s * series) / LN2
}

export function exp2(x: f64): f64 {
  if (x != x) return NaN
  if (x >= 1024) return Infinity
  if (x < -1022) return 0
  const whole = Math.floor(x + 0.5)
  const r = (x - whole) * LN2
  let sum: f64 = 1
  for (let n: f64 = 13; n >= 1; n -= 1) sum = 1.0 + (r / n) * sum
  return sum * reinterpret<f64>((<u64>(<i64>whole + 1022)) << 52) * 2
}

export function pow(x: f64, y: f64): f64 {
  if (y == 0) return 1
  if (x == 0) return y > 0 ? 0 : Infinity
  if (x == 1) return 1
  return exp2(y * log2(x))
}

export function sinTurns(turns: f64): f64 {
  let t = turns - Math.floor(turns + 0.5)
  if (t > 0.25) t = 0.5 - t
  else if (t < -0.25) t = -0.5 - t
  const x = t * TAU
  const q = x * x
  let sum: f64 = 1
  for (let n: f64 = 21; n >= 3; n -= 2) sum = 1.0 - (q / (n * (n - 1))) * sum
  return x * sum
}

export function cosTurns(turns: f64): f64 {
  return sinTurns(turns + 0.25)
}

export function atan2Turns(y: f64, x: f64): f64 {
  const ax = x < 0 ? -x : x
  const ay = y < 0 ? -y : y
  if (ax == 0 && ay == 0) return 0
  const steep = ay > ax
  let t = steep ? ax / ay : ay / ax
  let base: f64 = 0
  if (t > TAN_PI_12) {
    t = (t * SQRT3 - 1) / (SQRT3 + t)
    base = 1.0 / 12.0
  }
  const q = t * t
  let sum: f64 = 0
  for (let n: f64 = 23; n >= 1; n -= 2) sum = 1.0 / n - q * sum
  let turns = base + (t * sum) / TAU
  if (steep) turns = 0.25 - turns
  if (x < 0) turns = 0.5 - turns
  return y < 0 ? -turns : turns
}
