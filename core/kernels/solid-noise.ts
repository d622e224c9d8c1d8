import { hashInto, unitFloat } from '../random'
import { latticeGradient, octaveSeed } from './noise'

const GRADIENTS = [
  [1, 1, 0],
  [-1, 1, 0],
  [1, -1, 0],
  [-1, -1, 0],
  [1, 0, 1],
  [-1, 0, 1],
  [1, 0, -1],
  [-1, 0, -1],
  [0, 1, 1],
  [0, -1, 1],
  [0, 1, -1],
  [0, -1, -1],
] as const

const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10)
const mix = (a: number, b: number, t: number): number => a + (b - a) * t

/**
 * Gradient noise in space: −1…1 but for rare overshoot, 0 at lattice points.
 * Source: K. Perlin, "Improving Noise", SIGGRAPH 2002; the lattice hash is ours (random.ts).
 */
export function solidNoise(seed: number, x: number, y: number, z: number): number {
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)]
  const [u, v, w] = [x - i, y - j, z - k]
  const corner = (a: number, b: number, c: number): number => {
    const [gx, gy, gz] = GRADIENTS[latticeGradient(seed, i + a, j + b, k + c, true)]!
    return gx * (u - a) + gy * (v - b) + gz * (w - c)
  }
  const [s, t] = [fade(u), fade(v)]
  const near = mix(mix(corner(0, 0, 0), corner(1, 0, 0), s), mix(corner(0, 1, 0), corner(1, 1, 0), s), t)
  const far = mix(mix(corner(0, 0, 1), corner(1, 0, 1), s), mix(corner(0, 1, 1), corner(1, 1, 1), s), t)
  return mix(near, far, fade(w))
}

export interface SolidNoiseShape {
  readonly octaves: number
  readonly lacunarity: number
  readonly gain: number
  readonly style: 'plain' | 'billow' | 'ridged'
}

/** Octaves of solid noise: 0.5 + 0.5 · Σ gainⁱ·nᵢ / Σ gainⁱ, as fractalNoise has them on a tile. */
export function fractalSolidNoise(shape: SolidNoiseShape, seed: number, x: number, y: number, z: number): number {
  let [sum, weights, amplitude, scale] = [0, 0, 1, 1]
  for (let octave = 0; octave < shape.octaves; octave++) {
    const n = solidNoise(octaveSeed(seed, octave), x * scale, y * scale, z * scale)
    const size = n < 0 ? -n : n
    sum += amplitude * (shape.style === 'plain' ? n : shape.style === 'billow' ? 2 * size - 1 : 1 - 2 * size)
    weights += amplitude
    amplitude *= shape.gain
    scale *= shape.lacunarity
  }
  return 0.5 + (0.5 * sum) / weights
}

export interface SolidCell {
  /** Distance to the nearest point, and to the second nearest, in cells. */
  nearest: number
  second: number
  /** Hash of the cell of the nearest point. */
  hash: number
}

/**
 * Cells of space: each holds one point, moved off its middle by at most `jitter` halves of a cell.
 * Source: S. Worley, "A Cellular Texture Basis Function", SIGGRAPH 1996.
 */
export function solidCell(seed: number, jitter: number, x: number, y: number, z: number, out: SolidCell): SolidCell {
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)]
  let [nearest, second, found] = [Infinity, Infinity, 0]
  for (let c = -1; c <= 1; c++)
    for (let b = -1; b <= 1; b++)
      for (let a = -1; a <= 1; a++) {
        const hash = hashInto(hashInto(hashInto(seed, k + c), j + b), i + a)
        const at = (axis: number, cell: number, moved: number): number =>
          cell + 0.5 + jitter * (unitFloat(hashInto(hash, axis)) - 0.5) - moved
        const [dx, dy, dz] = [at(1, i + a, x), at(2, j + b, y), at(3, k + c, z)]
        const away = dx * dx + dy * dy + dz * dz
        if (away < nearest) {
          second = nearest
          nearest = away
          found = hash
        } else if (away < second) second = away
      }
  out.nearest = Math.sqrt(nearest)
  out.second = Math.sqrt(second)
  out.hash = found >>> 0
  return out
}
