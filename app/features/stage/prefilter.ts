import { toHalf } from '#core/texture/bytes/half'
import type { Radiance } from './environments'

/** Levels of roughness that are looked up: 0, 0.13, 0.29, 0.5 and 1. */
const LEVELS = 5
/** Directions that a lobe is sampled in, where it is too narrow for sums over a whole small cube. */
const SAMPLES = [0, 32, 64]
/** 1 as a half float. */
const OPAQUE = 0x3c00
/** Texels along an edge of the cube that wide lobes are summed over. */
const SUMMED_EDGE = 16

/** A cube of RGB floats: six faces one after the other, +x −x +y −y +z −z, rows as WebGL has them. */
export interface Cube {
  readonly edge: number
  readonly texels: Float32Array
}

/** The roughness that a level holds: what three.js looks up at level L is 1 − √(1 − L / 4). */
export const roughnessOf = (level: number): number => 1 - Math.sqrt(1 - Math.min(level, LEVELS - 1) / (LEVELS - 1))

/** Direction of a point on a face; across and down are −1…1. Source: OpenGL ES 3.0, table 3.21. */
function towards(face: number, across: number, down: number): [number, number, number] {
  if (face === 0) return [1, -down, -across]
  if (face === 1) return [-1, -down, across]
  if (face === 2) return [across, 1, down]
  if (face === 3) return [across, -1, -down]
  return face === 4 ? [across, -down, 1] : [-across, -down, -1]
}

/** Light that a direction meets in a cube, between the four texels around it, `weight` times on top of `sum`. */
function addLight(sum: Float64Array, { edge, texels }: Cube, x: number, y: number, z: number, weight: number): void {
  const ax = Math.abs(x)
  const ay = Math.abs(y)
  const az = Math.abs(z)
  let face: number
  let across: number
  let down: number
  if (ax >= ay && ax >= az) {
    face = x > 0 ? 0 : 1
    across = (x > 0 ? -z : z) / ax
    down = -y / ax
  } else if (ay >= az) {
    face = y > 0 ? 2 : 3
    across = x / ay
    down = (y > 0 ? z : -z) / ay
  } else {
    face = z > 0 ? 4 : 5
    across = (z > 0 ? x : -x) / az
    down = -y / az
  }
  // Beyond the middle of a face's last texels that texel goes on.
  const i = Math.min(edge - 1, Math.max(0, (across * 0.5 + 0.5) * edge - 0.5))
  const j = Math.min(edge - 1, Math.max(0, (down * 0.5 + 0.5) * edge - 0.5))
  const left = i | 0
  const top = j | 0
  const right = left + 1 < edge ? left + 1 : left
  const bottom = top + 1 < edge ? top + 1 : top
  const [u, v] = [i - left, j - top]
  const rows = face * edge
  addTexel(sum, texels, ((rows + top) * edge + left) * 3, weight * (1 - u) * (1 - v))
  addTexel(sum, texels, ((rows + top) * edge + right) * 3, weight * u * (1 - v))
  addTexel(sum, texels, ((rows + bottom) * edge + left) * 3, weight * (1 - u) * v)
  addTexel(sum, texels, ((rows + bottom) * edge + right) * 3, weight * u * v)
  sum[3] = sum[3]! + weight
}

function addTexel(sum: Float64Array, texels: Float32Array, at: number, weight: number): void {
  sum[0] = sum[0]! + weight * texels[at]!
  sum[1] = sum[1]! + weight * texels[at + 1]!
  sum[2] = sum[2]! + weight * texels[at + 2]!
}

/** Calls back for each texel of a cube, in order, with the unit direction through it and how far its point is from the middle. */
function eachTexel(edge: number, work: (at: number, x: number, y: number, z: number, far: number) => void): void {
  let at = 0
  for (let face = 0; face < 6; face++)
    for (let j = 0; j < edge; j++)
      for (let i = 0; i < edge; i++, at += 3) {
        const [x, y, z] = towards(face, (2 * i + 1) / edge - 1, (2 * j + 1) / edge - 1)
        const far = Math.sqrt(x * x + y * y + z * z)
        work(at, x / far, y / far, z / far, far)
      }
}

const emptyCube = (edge: number): Cube => ({ edge, texels: new Float32Array(6 * edge * edge * 3) })

/** Means over boxes of a cube. */
function shrunk({ edge, texels }: Cube, small: number): Cube {
  const out = emptyCube(small)
  const by = edge / small
  for (let at = 0; at < texels.length; at++) {
    const texel = Math.floor(at / 3)
    const [i, row] = [texel % edge, Math.floor(texel / edge)]
    const to = (Math.floor(row / by) * small + Math.floor(i / by)) * 3 + (at % 3)
    out.texels[to] = out.texels[to]! + texels[at]! / (by * by)
  }
  return out
}

/** The lobe around each direction, summed over all of a small cube. */
function summed(source: Cube, edge: number, roughness: number): Cube {
  // Direction, sky covered and light of each texel.
  const patches = new Float64Array((source.texels.length / 3) * 7)
  eachTexel(source.edge, (at, x, y, z, far) => {
    patches.set([x, y, z, 1 / (far * far * far)], (at / 3) * 7)
    patches.set(source.texels.subarray(at, at + 3), (at / 3) * 7 + 4)
  })
  const out = emptyCube(edge)
  const narrow = roughness * roughness * roughness * roughness - 1
  eachTexel(edge, (to, x, y, z) => {
    let [red, green, blue, all] = [0, 0, 0, 0]
    for (let at = 0; at < patches.length; at += 7) {
      const cosine = x * patches[at]! + y * patches[at + 1]! + z * patches[at + 2]!
      if (cosine <= 0) continue
      const spread = ((1 + cosine) / 2) * narrow + 1
      const weight = (cosine * patches[at + 3]!) / (spread * spread)
      red += weight * patches[at + 4]!
      green += weight * patches[at + 5]!
      blue += weight * patches[at + 6]!
      all += weight
    }
    out.texels[to] = red / all
    out.texels[to + 1] = green / all
    out.texels[to + 2] = blue / all
  })
  return out
}

/** The radical inverse of a whole number in base 2. */
function inverted(n: number): number {
  let [sum, half] = [0, 0.5]
  for (let rest = n; rest > 0; rest >>>= 1, half /= 2) if (rest & 1) sum += half
  return sum
}

/**
 * The lobe around each direction, by directions that lie as its light does. Each stands for a patch of the sky and reads the
 * cube whose texels are as large, so that a small sun leaves a halo and no spots.
 * Source: Křivánek and Colbert, "Real-time Shading with Filtered Importance Sampling" (EGSR 2008).
 */
function sampled(sources: readonly Cube[], edge: number, roughness: number, count: number): Cube {
  const alpha = roughness * roughness
  const narrow = alpha * alpha - 1
  const largest = sources[0]!.edge
  // Around the z axis: the direction, whose z is its weight too, and the cube that it reads.
  const lobe = new Float64Array(count * 3)
  const cubes: Cube[] = []
  for (let n = 0; n < count; n++) {
    const share = (n + 0.5) / count
    const half = (1 - share) / (1 + narrow * share)
    const cosine = 2 * half - 1
    if (cosine <= 0) continue
    const sine = Math.sqrt(1 - cosine * cosine)
    const turn = 2 * Math.PI * inverted(n)
    lobe.set([sine * Math.cos(turn), sine * Math.sin(turn), cosine], cubes.length * 3)
    const spread = half * narrow + 1
    const density = (alpha * alpha) / (Math.PI * spread * spread) / 4
    const texels = (6 * largest * largest) / (4 * Math.PI * count * density)
    cubes.push(sources[Math.min(sources.length - 1, Math.max(0, Math.round(Math.log2(texels) / 2 + 0.5)))]!)
  }
  const out = emptyCube(edge)
  const sum = new Float64Array(4)
  eachTexel(edge, (to, x, y, z) => {
    // A frame around the direction. Source: Duff et al., "Building an Orthonormal Basis, Revisited" (JCGT 2017).
    const sign = z < 0 ? -1 : 1
    const a = -1 / (sign + z)
    const b = x * y * a
    const [sx, ty] = [1 + sign * x * x * a, sign + y * y * a]
    sum.fill(0)
    for (let k = 0; k < cubes.length; k++) {
      const s = lobe[k * 3]!
      const t = lobe[k * 3 + 1]!
      const cosine = lobe[k * 3 + 2]!
      addLight(
        sum,
        cubes[k]!,
        s * sx + t * b + cosine * x,
        s * sign * b + t * ty + cosine * y,
        cosine * z - s * sign * x - t * y,
        cosine,
      )
    }
    for (let c = 0; c < 3; c++) out.texels[to + c] = sum[c]! / sum[3]!
  })
  return out
}

/**
 * An environment as surfaces of growing roughness mirror it, seen along their normals: level 0 is a mirror of `edge` texels a
 * face, each further one has half of that. The fifth has roughness 1, which is what lies on a matt surface too; the sixth repeats it. Here and not on the graphics card: without one that took 1.8 s, this takes 0.05 s.
 * Source: Walter et al. (EGSR 2007), the GGX distribution; Karis (SIGGRAPH 2013), weights by the cosine.
 */
export function prefiltered(radiance: Radiance, edge: number): Cube[] {
  const mirror = emptyCube(edge)
  eachTexel(edge, (at, x, y, z) => mirror.texels.set(radiance(x, y, z), at))
  // The same in halves, down to what wide lobes are summed over.
  const sources = [mirror]
  for (let width = edge / 2; width >= SUMMED_EDGE; width /= 2) sources.push(shrunk(sources.at(-1)!, width))
  const small = sources.at(-1)!
  return Array.from({ length: LEVELS + 1 }, (_, level) => {
    if (level === 0) return mirror
    const count = SAMPLES[level]
    const width = Math.max(1, edge >> level)
    return count === undefined
      ? summed(small, width, roughnessOf(level))
      : sampled(sources, width, roughnessOf(level), count)
  })
}

/** The faces of a cube as half floats, RGBA. */
export function halvesOf({ edge, texels }: Cube): Uint16Array<ArrayBuffer>[] {
  return Array.from({ length: 6 }, (_, face) => {
    const out = new Uint16Array(edge * edge * 4)
    const from = face * edge * edge * 3
    for (let i = 0; i < edge * edge; i++) {
      for (let c = 0; c < 3; c++) out[i * 4 + c] = toHalf(texels[from + i * 3 + c]!)
      out[i * 4 + 3] = OPAQUE
    }
    return out
  })
}
