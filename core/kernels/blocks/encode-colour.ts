import type { BlockQuality } from './blocks'
import { TEXELS } from './blocks'
import { spread5, spread6 } from './decode-blocks'
import { principalAxis } from './principal-axis'

/** Least-squares rounds, and rounds of moving single ends by a step, by quality. */
const EFFORT: Readonly<Record<BlockQuality, { readonly rounds: number; readonly climbs: number }>> = {
  fast: { rounds: 0, climbs: 0 },
  normal: { rounds: 2, climbs: 0 },
  best: { rounds: 4, climbs: 24 },
}

/** Both ends in 5, 6 and 5 bits, the first ones first. */
const ends = new Int32Array(6)
const bestEnds = new Int32Array(6)
const tones = new Float64Array(12)
const indices = new Uint8Array(TEXELS)
const bestIndices = new Uint8Array(TEXELS)
const MAX = Int32Array.of(31, 63, 31, 31, 63, 31)

/** Tones of the ends, 0–255: first, second, a third and two thirds of the way. */
function setTones(): void {
  for (let c = 0; c < 3; c++) {
    const [p, q] = c === 1 ? [spread6(ends[1]!), spread6(ends[4]!)] : [spread5(ends[c]!), spread5(ends[c + 3]!)]
    tones[c] = p
    tones[3 + c] = q
    tones[6 + c] = Math.floor((2 * p + q + 1) / 3)
    tones[9 + c] = Math.floor((p + 2 * q + 1) / 3)
  }
}

/** The nearest tone for each texel; the sum of squares that they are off. */
function assign(texels: Uint8Array): number {
  setTones()
  let error = 0
  for (let i = 0; i < TEXELS; i++) {
    const [r, g, b] = [texels[4 * i]!, texels[4 * i + 1]!, texels[4 * i + 2]!]
    let [found, least] = [0, Infinity]
    for (let t = 0; t < 4; t++) {
      const [x, y, z] = [tones[3 * t]! - r, tones[3 * t + 1]! - g, tones[3 * t + 2]! - b]
      const off = x * x + y * y + z * z
      if (off < least) {
        found = t
        least = off
      }
    }
    indices[i] = found
    error += least
  }
  return error
}

const rounded = (v: number, max: number): number => Math.min(max, Math.max(0, Math.round((v * max) / 255)))

/**
 * Colours of sixteen RGBA texels as a block of BC1, eight bytes from `at` on, in its form of four tones. Source: Khronos Data Format
 * Specification 1.3, chapter 18; ends along the principal axis, then by least squares over the indices, then step by step.
 */
export function encodeColour(texels: Uint8Array, quality: BlockQuality, out: Uint8Array, at: number): void {
  const { rounds, climbs } = EFFORT[quality]
  const { mean, axis, from, to } = principalAxis(texels, 0xffff, 3)
  for (let c = 0; c < 3; c++) {
    ends[c] = rounded(mean[c]! + axis[c]! * to, MAX[c]!)
    ends[c + 3] = rounded(mean[c]! + axis[c]! * from, MAX[c]!)
  }
  let best = assign(texels)
  bestEnds.set(ends)
  bestIndices.set(indices)
  const look = (): boolean => {
    const error = assign(texels)
    if (error >= best) return false
    best = error
    bestEnds.set(ends)
    bestIndices.set(indices)
    return true
  }
  for (let round = 0; round < rounds && best > 0; round++) if (!leastSquares(texels) || !look()) break
  for (let climb = 0; climb < climbs && best > 0; climb++) {
    let better = false
    for (let e = 0; e < 6; e++)
      for (const step of [-1, 1]) {
        ends.set(bestEnds)
        ends[e]! += step
        if (ends[e]! >= 0 && ends[e]! <= MAX[e]! && look()) better = true
      }
    // Both ends together: the whole block a little lighter or darker.
    for (let c = 0; c < 3; c++)
      for (const step of [-1, 1]) {
        ends.set(bestEnds)
        ends[c]! += step
        ends[c + 3]! += step
        if ([c, c + 3].every((e) => ends[e]! >= 0 && ends[e]! <= MAX[e]!) && look()) better = true
      }
    if (!better) break
  }
  write(out, at)
}

/** Ends that fit the texels best at the indices found; false where they do not tell. */
function leastSquares(texels: Uint8Array): boolean {
  let [aa, ab, bb] = [0, 0, 0]
  const [av, bv] = [
    [0, 0, 0],
    [0, 0, 0],
  ] as [number[], number[]]
  for (let i = 0; i < TEXELS; i++) {
    const index = bestIndices[i]!
    const w = index < 2 ? index : (index - 1) / 3
    aa += (1 - w) * (1 - w)
    ab += (1 - w) * w
    bb += w * w
    for (let c = 0; c < 3; c++) {
      av[c]! += (1 - w) * texels[4 * i + c]!
      bv[c]! += w * texels[4 * i + c]!
    }
  }
  const det = aa * bb - ab * ab
  if (det < 1e-9) return false
  for (let c = 0; c < 3; c++) {
    ends[c] = rounded((av[c]! * bb - bv[c]! * ab) / det, MAX[c]!)
    ends[c + 3] = rounded((bv[c]! * aa - av[c]! * ab) / det, MAX[c]!)
  }
  return true
}

/** The first end is the larger one: that says that there are four tones. */
function write(out: Uint8Array, at: number): void {
  const word = (e: number): number => (bestEnds[e]! << 11) | (bestEnds[e + 1]! << 5) | bestEnds[e + 2]!
  let [first, second] = [word(0), word(3)]
  const swapped = first < second
  if (swapped) [first, second] = [second, first]
  out[at] = first & 255
  out[at + 1] = first >> 8
  out[at + 2] = second & 255
  out[at + 3] = second >> 8
  for (let row = 0; row < 4; row++) {
    let bits = 0
    for (let x = 0; x < 4; x++) {
      const index = bestIndices[row * 4 + x]!
      // Equal ends have one tone, the first.
      bits |= (first === second ? 0 : swapped ? index ^ 1 : index) << (2 * x)
    }
    out[at + 4 + row] = bits
  }
}
