import { atan2Turns, pow } from './elementary'

/** Shapes of rampAt (core/kernels/ramps.ts), by their places in RAMP_SHAPES there. */
const LINEAR: i32 = 0
const RADIAL: i32 = 1
const ANGULAR: i32 = 2
const DIAMOND: i32 = 3

/**
 * Twin of a row of rampAt. `c` and `s` are the angle's cosine and sine, `u0` and `dv` the centre's u and its height above the
 * row; `width` texels lie along one tile.
 */
export function rampRow(
  out: usize,
  width: i32,
  shape: i32,
  c: f64,
  s: f64,
  u0: f64,
  dv: f64,
  radius: f64,
  exponent: f64,
  repeat: f64,
  mirror: bool,
): void {
  const texel = 1 / <f64>width
  const plain = repeat == 1 && !mirror && shape != ANGULAR
  for (let i = 0; i < width; i++) {
    const dx = (<f64>i + 0.5) / <f64>width - u0
    const x = dx * c + dv * s
    const y = dv * c - dx * s
    const ax = x < 0 ? -x : x
    const ay = y < 0 ? -y : y
    const distance = Math.sqrt(x * x + y * y)
    let t: f64
    let slope: f64 = 1 / radius
    if (shape == LINEAR) {
      t = 0.5 + x / (2 * radius)
      slope = 0.5 / radius
    } else if (shape == ANGULAR) {
      t = atan2Turns(y, x)
      if (t < 0) t += 1
      slope = 0.15915494309189535 / (distance > texel ? distance : texel)
    } else t = (shape == RADIAL ? distance : shape == DIAMOND ? ax + ay : ax > ay ? ax : ay) / radius
    if (exponent != 1 && t > 0) {
      const bent = pow(t, exponent)
      slope *= (exponent * bent) / t
      t = bent
    }
    let v: f64
    if (plain) v = t < 0 ? 0 : t > 1 ? 1 : t
    else v = repeated(t * repeat, Math.min(0.5, 0.5 * slope * repeat * texel), mirror)
    store<f32>(out + ((<usize>i) << 2), <f32>(v + 0))
  }
}

function repeated(scaled: f64, half: f64, mirror: bool): f64 {
  if (half < 1e-9) return mirror ? 1 - Math.abs(1 - (scaled - 2 * Math.floor(scaled / 2))) : scaled - Math.floor(scaled)
  return (integral(scaled + half, mirror) - integral(scaled - half, mirror)) / (2 * half)
}

function integral(t: f64, mirror: bool): f64 {
  if (!mirror) {
    const whole = Math.floor(t)
    const part = t - whole
    return whole * 0.5 + part * part * 0.5
  }
  const pairs = Math.floor(t / 2)
  const part = t - 2 * pairs
  return pairs + (part <= 1 ? 0.5 * part * part : 2 * part - 0.5 * part * part - 1)
}
