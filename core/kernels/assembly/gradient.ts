import { pow } from './elementary'
import { boundedNumber } from './lanes'

/** Of a stop: its place, its colour in linear light, and in the space where colours are mixed. */
const STOP: usize = 56

/**
 * Twin of gradientFields (core/kernels/gradient.ts). `space` 0 is Oklab, 1 linear light, 2 sRGB; `how` 0 straight, 1 eased,
 * 2 one colour a stop.
 */
export function gradient(
  source: usize,
  red: usize,
  green: usize,
  blue: usize,
  count: i32,
  stops: usize,
  stopCount: i32,
  space: i32,
  how: i32,
): void {
  const end = stops + <usize>stopCount * STOP
  for (let i: usize = 0; i < (<usize>count) << 2; i += 4) {
    const v = <f64>load<f32>(source + i)
    let next = stops
    while (next < end && load<f64>(next) <= v) next += STOP
    if (next == stops || next == end || how == 2) {
      const one = next == stops ? next : next - STOP
      store<f32>(red + i, boundedNumber(load<f64>(one, 8)))
      store<f32>(green + i, boundedNumber(load<f64>(one, 16)))
      store<f32>(blue + i, boundedNumber(load<f64>(one, 24)))
      continue
    }
    const last = next - STOP
    let t = (v - load<f64>(last)) / (load<f64>(next) - load<f64>(last))
    if (how == 1) t = t * t * (3.0 - 2.0 * t)
    const x = load<f64>(last, 32) + (load<f64>(next, 32) - load<f64>(last, 32)) * t
    const y = load<f64>(last, 40) + (load<f64>(next, 40) - load<f64>(last, 40)) * t
    const z = load<f64>(last, 48) + (load<f64>(next, 48) - load<f64>(last, 48)) * t
    if (space == 0) {
      const l = cube(x + 0.3963377774 * y + 0.2158037573 * z)
      const m = cube(x - 0.1055613458 * y - 0.0638541728 * z)
      const s = cube(x - 0.0894841775 * y - 1.291485548 * z)
      store<f32>(red + i, boundedNumber(4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s))
      store<f32>(green + i, boundedNumber(-1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s))
      store<f32>(blue + i, boundedNumber(-0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s))
    } else {
      store<f32>(red + i, boundedNumber(space == 1 ? x : decoded(x)))
      store<f32>(green + i, boundedNumber(space == 1 ? y : decoded(y)))
      store<f32>(blue + i, boundedNumber(space == 1 ? z : decoded(z)))
    }
  }
}

function cube(v: f64): f64 {
  return v * v * v
}

/** decodeSrgb of core/colour/srgb.ts; colours of stops are not negative. */
function decoded(v: f64): f64 {
  return v <= 0.04045 ? v / 12.92 : pow((v + 0.055) / 1.055, 2.4)
}
