import type { BakeContext } from './baker'
import { seenSamples } from './high'

/** Cosine of the most that normals may differ for one sample to stand for another: about 18°. */
const ALIKE = 0.95

/** Chosen samples that one is made of at most. */
const MAX_TERMS = 64

/** Samples that rays are sent from in place of all, and how their values make those of the others. */
export interface SparseSamples {
  /** What is made of it is made for the chosen samples alone. */
  readonly context: BakeContext
  /** Values of all samples from those of the chosen, `each` numbers a sample; NaN where none stands for it. */
  spread(values: Float32Array, each: number): Float32Array
}

/**
 * Chooses samples for a draft: one in each square of `step` texels, and one more for each island and each way the surface faces in it.
 * The others take the mean of the chosen ones around them that are alike: of their island, facing within 18°, the nearer the more.
 */
export function sparseSamples(context: BakeContext, width: number, step: number): SparseSamples {
  const { samples, surface, room } = context
  const { texels, triangles, weights } = samples
  const { places } = seenSamples(context)
  const count = texels.length
  const across = Math.ceil(width / step)
  const down = count > 0 ? Math.floor(texels[count - 1]! / width / step) + 1 : 0
  /** The chosen of each square as a list: its last, and the one before each. */
  const last = new Int32Array(across * down).fill(-1)
  const before = new Int32Array(count)
  const chosen = new Uint32Array(count)
  /** Of each chosen one. */
  const xs = new Int32Array(count)
  const ys = new Int32Array(count)
  const islands = new Uint32Array(count)
  const facing = new Float32Array(count * 3)
  let made = 0
  const islandOf = surface.islands.of
  /** How much a chosen one is like a sample: of its island, facing its way; 0: not at all. */
  const alike = (one: number, s: number): number => {
    if (islands[one] !== islandOf[triangles[s]!]) return 0
    const n = one * 3
    const at = s * 6 + 3
    const cosine = places[at]! * facing[n]! + places[at + 1]! * facing[n + 1]! + places[at + 2]! * facing[n + 2]!
    return cosine < ALIKE ? 0 : 0.1 + (cosine - ALIKE) / (1 - ALIKE)
  }
  for (let s = 0; s < count; s++) {
    const y = Math.floor(texels[s]! / width)
    const x = texels[s]! - y * width
    const square = Math.floor(y / step) * across + Math.floor(x / step)
    let one = last[square]!
    while (one >= 0 && alike(one, s) === 0) one = before[one]!
    if (one >= 0) continue
    before[made] = last[square]!
    last[square] = made
    chosen[made] = s
    xs[made] = x
    ys[made] = y
    islands[made] = islandOf[triangles[s]!]!
    for (let k = 0; k < 3; k++) facing[made * 3 + k] = places[s * 6 + 3 + k]!
    made++
  }
  const own = room(made * 6)
  const sub = {
    texels: new Uint32Array(made),
    triangles: new Uint32Array(made),
    weights: new Float32Array(made * 2),
  }
  for (let i = 0; i < made; i++) {
    const s = chosen[i]!
    for (let k = 0; k < 6; k++) own[i * 6 + k] = places[s * 6 + k]!
    sub.texels[i] = texels[s]!
    sub.triangles[i] = triangles[s]!
    sub.weights[i * 2] = weights[s * 2]!
    sub.weights[i * 2 + 1] = weights[s * 2 + 1]!
  }

  const starts = new Uint32Array(count + 1)
  let terms = new Uint32Array(count * 6)
  let ratios = new Float32Array(count * 6)
  let n = 0
  for (let s = 0; s < count; s++) {
    const y = Math.floor(texels[s]! / width)
    const x = texels[s]! - y * width
    const column = Math.floor(x / step)
    const row = Math.floor(y / step)
    if (n + MAX_TERMS > terms.length) {
      terms = longer(terms)
      ratios = longer(ratios)
    }
    const end = n + MAX_TERMS
    const right = Math.min(across - 1, column + 1)
    const foot = Math.min(down - 1, row + 1)
    for (let r = Math.max(0, row - 1); r <= foot; r++)
      for (let c = Math.max(0, column - 1); c <= right; c++)
        for (let one = last[r * across + c]!; one >= 0 && n < end; one = before[one]!) {
          const dx = Math.abs(xs[one]! - x)
          if (dx >= step) continue
          const dy = Math.abs(ys[one]! - y)
          if (dy >= step) continue
          const ratio = alike(one, s) * (1 - dx / step) * (1 - dy / step)
          if (ratio === 0) continue
          terms[n] = one
          ratios[n++] = ratio
        }
    starts[s + 1] = n
  }
  return {
    context: {
      ...context,
      samples: sub,
      places: own,
      // They lie on the high twin already.
      high: null,
      cage: null,
      shared: new Map(),
    },
    spread: (values, each) => {
      const out = room(count * each)
      if (each === 1) spreadGreys(values, { starts, terms, ratios }, out)
      else spreadTriples(values, { starts, terms, ratios }, out)
      return out
    },
  }
}

/** Of each sample the chosen ones that it is made of, with their weights; those of the sample s from starts[s] to starts[s + 1]. */
interface Terms {
  readonly starts: Uint32Array
  readonly terms: Uint32Array
  readonly ratios: Float32Array
}

function spreadGreys(values: Float32Array, { starts, terms, ratios }: Terms, out: Float32Array): void {
  let t = 0
  for (let s = 0; s < out.length; s++) {
    const end = starts[s + 1]!
    let sum = 0
    let a = 0
    for (; t < end; t++) {
      const value = values[terms[t]!]!
      if (Number.isNaN(value)) continue
      const ratio = ratios[t]!
      sum += ratio
      a += value * ratio
    }
    out[s] = sum > 0 ? a / sum : NaN
  }
}

function spreadTriples(values: Float32Array, { starts, terms, ratios }: Terms, out: Float32Array): void {
  let t = 0
  for (let s = 0, to = 0; to < out.length; s++, to += 3) {
    const end = starts[s + 1]!
    let sum = 0
    let a = 0
    let b = 0
    let c = 0
    for (; t < end; t++) {
      const at = terms[t]! * 3
      const first = values[at]!
      if (Number.isNaN(first)) continue
      const ratio = ratios[t]!
      sum += ratio
      a += first * ratio
      b += values[at + 1]! * ratio
      c += values[at + 2]! * ratio
    }
    out[to] = sum > 0 ? a / sum : NaN
    out[to + 1] = b / sum
    out[to + 2] = c / sum
  }
}

/** The same numbers with twice the room. */
function longer<T extends Uint32Array | Float32Array>(values: T): T {
  const out = new (values.constructor as new (length: number) => T)(values.length * 2)
  out.set(values)
  return out
}
