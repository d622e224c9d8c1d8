import { hashInto, hashNumber } from './random'

/** Twice the coordinates of the twelve gradients to the edges of a cube, one byte each: x, y, z, and nothing. */
const GRADIENTS = memory.data<i8>([
  1, 1, 0, 0, -1, 1, 0, 0, 1, -1, 0, 0, -1, -1, 0, 0, 1, 0, 1, 0, -1, 0, 1, 0, 1, 0, -1, 0, -1, 0, -1, 0, 0, 1, 1, 0, 0,
  -1, 1, 0, 0, 1, -1, 0, 0, -1, -1, 0,
])

function slope(hash: i32, x: f64, y: f64, z: f64): f64 {
  const number = <usize>(<i32>(<f64>(<u32>hash) * (12.0 / 4294967296.0)))
  const at = GRADIENTS + (number << 2)
  return <f64>load<i8>(at) * x + <f64>load<i8>(at, 1) * y + <f64>load<i8>(at, 2) * z
}

function fade(t: f64): f64 {
  return t * t * t * (t * (t * 6 - 15) + 10)
}

function mix(a: f64, b: f64, t: f64): f64 {
  return a + (b - a) * t
}

/** Twin of solidNoise (core/kernels/solid-noise.ts). */
function solidNoise(seed: i32, x: f64, y: f64, z: f64): f64 {
  const fi = floor(x)
  const fj = floor(y)
  const fk = floor(z)
  const i = <i32>(<i64>fi)
  const j = <i32>(<i64>fj)
  const k = <i32>(<i64>fk)
  const u = x - fi
  const v = y - fj
  const w = z - fk
  const near = hashNumber(seed + k)
  const far = hashNumber(seed + k + 1)
  // Hashes of the four rows of corners, and then of both corners of each.
  const rows = hashInto(i32x4(near, near, far, far), i32x4(j, j + 1, j, j + 1))
  const left = hashInto(rows, i32x4.splat(i))
  const right = hashInto(rows, i32x4.splat(i + 1))
  const s = fade(u)
  const t = fade(v)
  const front = mix(
    mix(slope(i32x4.extract_lane(left, 0), u, v, w), slope(i32x4.extract_lane(right, 0), u - 1, v, w), s),
    mix(slope(i32x4.extract_lane(left, 1), u, v - 1, w), slope(i32x4.extract_lane(right, 1), u - 1, v - 1, w), s),
    t,
  )
  const back = mix(
    mix(slope(i32x4.extract_lane(left, 2), u, v, w - 1), slope(i32x4.extract_lane(right, 2), u - 1, v, w - 1), s),
    mix(
      slope(i32x4.extract_lane(left, 3), u, v - 1, w - 1),
      slope(i32x4.extract_lane(right, 3), u - 1, v - 1, w - 1),
      s,
    ),
    t,
  )
  return mix(front, back, fade(w))
}

/** Farther out there is no detail that anybody sees, and numbers of cells would not be exact. */
export function held(value: f64): f64 {
  return min(max(value, -1e9), 1e9)
}

/**
 * Twin of fractalSolidNoise (core/kernels/solid-noise.ts) for `count` texels whose places lie at xs, ys and zs: those of x and z are
 * multiplied by `across`, those of y by `up`. `seeds` are the octaves' seeds; style 0 is plain, 1 billow, 2 ridged.
 */
export function solidNoiseRow(
  xs: usize,
  ys: usize,
  zs: usize,
  count: i32,
  across: f64,
  up: f64,
  seeds: usize,
  octaves: i32,
  lacunarity: f64,
  gain: f64,
  style: i32,
  out: usize,
): void {
  for (let n: usize = 0; n < <usize>count; n++) {
    const x = held(<f64>load<f32>(xs + (n << 2)) * across)
    const y = held(<f64>load<f32>(ys + (n << 2)) * up)
    const z = held(<f64>load<f32>(zs + (n << 2)) * across)
    let sum: f64 = 0
    let weights: f64 = 0
    let amplitude: f64 = 1
    let scale: f64 = 1
    for (let octave: usize = 0; octave < <usize>octaves; octave++) {
      const v = solidNoise(load<i32>(seeds + (octave << 2)), x * scale, y * scale, z * scale)
      const size = v < 0 ? -v : v
      sum += amplitude * (style == 0 ? v : style == 1 ? 2 * size - 1 : 1 - 2 * size)
      weights += amplitude
      amplitude *= gain
      scale *= lacunarity
    }
    store<f32>(out + (n << 2), <f32>(0.5 + (0.5 * sum) / weights))
  }
}
