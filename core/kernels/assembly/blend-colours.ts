import { boundedNumber } from './lanes'

/**
 * Twins of NON_SEPARABLE (core/kernels/blend.ts) as blendFields uses them, texel by texel in float64: 0 hue, 1 saturation,
 * 2 colour, 3 luminosity. The three channels of a colour stand in `c0` to `c2`.
 */
let c0: f64 = 0
let c1: f64 = 0
let c2: f64 = 0

/** `base`, `source` and `out` point at the places of three planes each; `mask` 0 stands for 1 everywhere. */
export function blendColours(
  mode: i32,
  base: usize,
  source: usize,
  mask: usize,
  out: usize,
  count: i32,
  amount: f32,
): void {
  for (let i: usize = 0; i < (<usize>count) << 2; i += 4) {
    const b0 = load<f32>(<usize>load<u32>(base) + i)
    const b1 = load<f32>(<usize>load<u32>(base, 4) + i)
    const b2 = load<f32>(<usize>load<u32>(base, 8) + i)
    combine(
      mode,
      unit(b0),
      unit(b1),
      unit(b2),
      unit(load<f32>(<usize>load<u32>(source) + i)),
      unit(load<f32>(<usize>load<u32>(source, 4) + i)),
      unit(load<f32>(<usize>load<u32>(source, 8) + i)),
    )
    let w = amount
    if (mask) {
      const m = load<f32>(mask + i)
      w = (m < 0 ? 0 : m > 1 ? 1 : m) * amount
    }
    store<f32>(<usize>load<u32>(out) + i, mixBounded(b0, <f32>c0, w))
    store<f32>(<usize>load<u32>(out, 4) + i, mixBounded(b1, <f32>c1, w))
    store<f32>(<usize>load<u32>(out, 8) + i, mixBounded(b2, <f32>c2, w))
  }
}

function unit(v: f32): f64 {
  return v < 0 ? 0 : v > 1 ? 1 : <f64>v
}

/** Twin of mixBounded (core/kernels/blend-fields.ts). */
function mixBounded(b: f32, m: f32, w: f32): f32 {
  if (w == 0) return b
  if (w == 1) return boundedNumber(<f64>m)
  return boundedNumber(<f64>(b + (m - b) * w))
}

function combine(mode: i32, b0: f64, b1: f64, b2: f64, s0: f64, s1: f64, s2: f64): void {
  if (mode == 0) {
    setSaturation(s0, s1, s2, saturation(b0, b1, b2))
    setLuminosity(c0, c1, c2, luminosity(b0, b1, b2))
  } else if (mode == 1) {
    setSaturation(b0, b1, b2, saturation(s0, s1, s2))
    setLuminosity(c0, c1, c2, luminosity(b0, b1, b2))
  } else if (mode == 2) setLuminosity(s0, s1, s2, luminosity(b0, b1, b2))
  else setLuminosity(b0, b1, b2, luminosity(s0, s1, s2))
}

function luminosity(r: f64, g: f64, b: f64): f64 {
  return 0.3 * r + 0.59 * g + 0.11 * b
}

function saturation(r: f64, g: f64, b: f64): f64 {
  return max(max(r, g), b) - min(min(r, g), b)
}

function setSaturation(r: f64, g: f64, b: f64, s: f64): void {
  const lowest = min(min(r, g), b)
  const highest = max(max(r, g), b)
  const span = highest - lowest
  const flat = highest == lowest
  c0 = flat ? 0 : ((r - lowest) * s) / span
  c1 = flat ? 0 : ((g - lowest) * s) / span
  c2 = flat ? 0 : ((b - lowest) * s) / span
}

function setLuminosity(r: f64, g: f64, b: f64, to: f64): void {
  const d = to - luminosity(r, g, b)
  const x = r + d
  const y = g + d
  const z = b + d
  const l = luminosity(x, y, z)
  const lowest = min(min(x, y), z)
  const highest = max(max(x, y), z)
  c0 = clipped(x, l, lowest, highest)
  c1 = clipped(y, l, lowest, highest)
  c2 = clipped(z, l, lowest, highest)
}

function clipped(v: f64, l: f64, lowest: f64, highest: f64): f64 {
  let out = v
  if (lowest < 0) out = l + ((out - l) * l) / (l - lowest)
  if (highest > 1) out = l + ((out - l) * (1 - l)) / (highest - l)
  return out
}
