import type { BlockQuality } from './blocks'
import { TEXELS } from './blocks'

/** Least-squares rounds, and how far ends are moved to look for better ones, by quality. */
const EFFORT: Readonly<Record<BlockQuality, { readonly rounds: number; readonly reach: number }>> = {
  fast: { rounds: 0, reach: 0 },
  normal: { rounds: 1, reach: 0 },
  best: { rounds: 2, reach: 3 },
}

const tones = new Float64Array(8)
const indices = new Uint8Array(TEXELS)
const bestIndices = new Uint8Array(TEXELS)

/** The tones of two ends: eight where the first is larger, else six with 0 and 255. Rounded as decoders do. */
function setTones(a: number, b: number): void {
  tones[0] = a
  tones[1] = b
  if (a > b) for (let i = 1; i < 7; i++) tones[i + 1] = Math.floor(((7 - i) * a + i * b + 3) / 7)
  else {
    for (let i = 1; i < 5; i++) tones[i + 1] = Math.floor(((5 - i) * a + i * b + 2) / 5)
    tones[6] = 0
    tones[7] = 255
  }
}

/** The nearest tone for each value; the sum of squares that they are off. */
function assign(values: Uint8Array, a: number, b: number): number {
  setTones(a, b)
  let error = 0
  for (let i = 0; i < TEXELS; i++) {
    const v = values[i]!
    let [found, least] = [0, Infinity]
    if (a > b) {
      // In order the tones are 1, 7, 6 … 2, 0: found by how far along the value lies.
      const along = Math.floor(((v - b) * 14 + (a - b)) / (2 * (a - b)))
      found = along <= 0 ? 1 : along >= 7 ? 0 : 8 - along
      least = (tones[found]! - v) ** 2
    } else
      for (let t = 0; t < 8; t++) {
        const off = (tones[t]! - v) ** 2
        if (off < least) [found, least] = [t, off]
      }
    indices[i] = found
    error += least
  }
  return error
}

/**
 * Sixteen values of 0–255 as a block of BC4, eight bytes from `at` on: two ends and sixteen indices of 3 bits. Source: Khronos Data Format
 * Specification 1.3, chapter 19; ends by least squares over the indices, then by looking around.
 */
export function encodeGrey(values: Uint8Array, quality: BlockQuality, out: Uint8Array, at: number): void {
  const { rounds, reach } = EFFORT[quality]
  let [lo, hi, innerLo, innerHi] = [255, 0, 255, 0]
  for (const v of values) {
    if (v < lo) lo = v
    if (v > hi) hi = v
    if (v > 0 && v < 255) {
      if (v < innerLo) innerLo = v
      if (v > innerHi) innerHi = v
    }
  }
  let [bestA, bestB, best] = [hi, lo, Infinity]
  const look = (a: number, b: number): boolean => {
    const error = assign(values, a, b)
    if (error >= best) return false
    ;[bestA, bestB, best] = [a, b, error]
    bestIndices.set(indices)
    return true
  }
  look(hi, lo)
  // The ends of the range itself come for nothing where there are only six tones.
  if ((lo === 0 || hi === 255) && best > 0 && quality !== 'fast')
    look(innerLo > innerHi ? 0 : innerLo, innerLo > innerHi ? 0 : innerHi)
  for (let round = 0; round < rounds && best > 0; round++) {
    const ends = leastSquares(values, bestA > bestB)
    if (!ends || !look(...ends)) break
  }
  for (let moved = reach > 0; moved && best > 0;) {
    moved = false
    const [a, b] = [bestA, bestB]
    for (let i = -reach; i <= reach; i++)
      for (let j = -reach; j <= reach; j++) {
        const [p, q] = [a + i, b + j]
        if (p < 0 || q < 0 || p > 255 || q > 255 || p > q !== a > b) continue
        if (look(p, q)) moved = true
      }
  }
  out[at] = bestA
  out[at + 1] = bestB
  for (let half = 0; half < 2; half++) {
    let bits = 0
    for (let i = 0; i < 8; i++) bits |= bestIndices[half * 8 + i]! << (3 * i)
    for (let i = 0; i < 3; i++) out[at + 2 + half * 3 + i] = (bits >> (8 * i)) & 255
  }
}

/** Ends that fit the values best at the indices found; null where they do not tell. */
function leastSquares(values: Uint8Array, eight: boolean): [number, number] | null {
  const of = eight ? 7 : 5
  let [aa, ab, bb, av, bv] = [0, 0, 0, 0, 0]
  for (let i = 0; i < TEXELS; i++) {
    const index = bestIndices[i]!
    if (!eight && index > 5) continue
    const w = index === 0 ? 0 : index === 1 ? 1 : (index - 1) / of
    aa += (1 - w) * (1 - w)
    ab += (1 - w) * w
    bb += w * w
    av += (1 - w) * values[i]!
    bv += w * values[i]!
  }
  const det = aa * bb - ab * ab
  if (det < 1e-9) return null
  const held = (v: number): number => Math.min(255, Math.max(0, Math.round(v)))
  const [a, b] = [held((av * bb - bv * ab) / det), held((bv * aa - av * ab) / det)]
  return a > b === eight ? [a, b] : null
}
