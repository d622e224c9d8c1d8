import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { hashInto } from '../random'
import { octaveSeed } from './noise'
import type { Rows } from './rows'
import { simd } from './simd'

/** The twelve gradients to the edges of a cube, by the number that the lattice hash picks. */
const GX = Float64Array.of(1, -1, 1, -1, 1, -1, 1, -1, 0, 0, 0, 0)
const GY = Float64Array.of(1, 1, -1, -1, 0, 0, 0, 0, 1, -1, 1, -1)
const GZ = Float64Array.of(0, 0, 0, 0, 1, 1, -1, -1, 1, 1, -1, -1)

const fade = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10)
const mix = (a: number, b: number, t: number): number => a + (b - a) * t

/** What the gradient of a lattice point comes to at an offset from it. `row` is the hash of its row. */
function slope(row: number, ix: number, x: number, y: number, z: number): number {
  const g = Math.floor((hashInto(row, ix) >>> 0) * (12 / 4294967296))
  return GX[g]! * x + GY[g]! * y + GZ[g]! * z
}

/**
 * Gradient noise in space: −1…1 but for rare overshoot, 0 at lattice points.
 * Source: K. Perlin, "Improving Noise", SIGGRAPH 2002; the lattice hash is ours (random.ts), as that of noise.ts.
 */
export function solidNoise(seed: number, x: number, y: number, z: number): number {
  const i = Math.floor(x)
  const j = Math.floor(y)
  const k = Math.floor(z)
  const u = x - i
  const v = y - j
  const w = z - k
  const near = hashInto(seed, k)
  const far = hashInto(seed, k + 1)
  const a = hashInto(near, j)
  const b = hashInto(near, j + 1)
  const c = hashInto(far, j)
  const d = hashInto(far, j + 1)
  const s = fade(u)
  const t = fade(v)
  const front = mix(
    mix(slope(a, i, u, v, w), slope(a, i + 1, u - 1, v, w), s),
    mix(slope(b, i, u, v - 1, w), slope(b, i + 1, u - 1, v - 1, w), s),
    t,
  )
  const back = mix(
    mix(slope(c, i, u, v, w - 1), slope(c, i + 1, u - 1, v, w - 1), s),
    mix(slope(d, i, u, v - 1, w - 1), slope(d, i + 1, u - 1, v - 1, w - 1), s),
    t,
  )
  return mix(front, back, fade(w))
}

export interface SolidNoiseShape {
  readonly octaves: number
  readonly lacunarity: number
  readonly gain: number
  readonly style: 'plain' | 'billow' | 'ridged'
}

/** Farther out there is no detail that anybody sees, and numbers of cells would not be exact. */
export const held = (value: number): number => Math.min(1e9, Math.max(-1e9, value))

/** Octaves of solid noise: 0.5 + 0.5 · Σ gainⁱ·nᵢ / Σ gainⁱ, as fractalNoise has them on a tile. Places in cells. */
export function fractalSolidNoise(shape: SolidNoiseShape, seed: number, px: number, py: number, pz: number): number {
  const [x, y, z] = [held(px), held(py), held(pz)]
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

const STYLES = ['plain', 'billow', 'ridged'] as const

/** The same for rows of places in metres: cells are 1 / `across` wide and deep, and 1 / `up` high. */
export function solidNoiseField(
  shape: SolidNoiseShape,
  seed: number,
  position: Field,
  { across, up }: { readonly across: number; readonly up: number },
  out: Field,
  rows: Rows,
): void {
  const [px, py, pz] = position.planes as [Float32Array, Float32Array, Float32Array]
  const target = out.planes[0]!
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const seeds = twin.offsets(Array.from({ length: shape.octaves }, (_, octave) => octaveSeed(seed, octave)))
      const style = STYLES.indexOf(shape.style)
      const planes = position.planes.map((plane) => [position, plane] as const)
      twin.runs(rows, out.width, planes, [[out, target]], (count, [xs, ys, zs], [to]) =>
        twin.assembly.solidNoiseRow(
          ...([
            xs!,
            ys!,
            zs!,
            count,
            across,
            up,
            seeds,
            shape.octaves,
            shape.lacunarity,
            shape.gain,
            style,
            to!,
          ] as const),
        ),
      )
    })
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [at, to] = [rowStart(position, y), rowStart(out, y)]
    for (let x = 0; x < out.width; x++)
      target[to + x] = fractalSolidNoise(shape, seed, px[at + x]! * across, py[at + x]! * up, pz[at + x]! * across) + 0
  }
}
