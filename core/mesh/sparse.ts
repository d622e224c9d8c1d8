import type { BakeContext } from './baker'
import { seenSamples } from './high'

/** Cosine of the most that normals may differ for one sample to stand for another: about 18°. */
const ALIKE = 0.95

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
  const islands = surface.islands.of
  const count = texels.length
  const across = Math.ceil(width / step)
  const [xs, ys] = [new Uint16Array(count), new Uint16Array(count)]
  for (let s = 0; s < count; s++) {
    ys[s] = Math.floor(texels[s]! / width)
    xs[s] = texels[s]! - ys[s]! * width
  }
  const down = count > 0 ? Math.floor(texels[count - 1]! / width / step) + 1 : 0
  /** The chosen of each square as a list: its last, and the one before each. */
  const last = new Int32Array(across * down).fill(-1)
  const before: number[] = []
  const chosen: number[] = []
  const alike = (a: number, b: number): number => {
    if (islands[triangles[a]!] !== islands[triangles[b]!]) return 0
    const i = a * 6
    const j = b * 6
    const cosine = places[i + 3]! * places[j + 3]! + places[i + 4]! * places[j + 4]! + places[i + 5]! * places[j + 5]!
    return cosine < ALIKE ? 0 : 0.1 + (cosine - ALIKE) / (1 - ALIKE)
  }
  for (let s = 0; s < count; s++) {
    const square = Math.floor(ys[s]! / step) * across + Math.floor(xs[s]! / step)
    let one = last[square]!
    while (one >= 0 && alike(s, chosen[one]!) === 0) one = before[one]!
    if (one >= 0) continue
    before.push(last[square]!)
    last[square] = chosen.length
    chosen.push(s)
  }
  const own = room(chosen.length * 6)
  const sub = {
    texels: new Uint32Array(chosen.length),
    triangles: new Uint32Array(chosen.length),
    weights: new Float32Array(chosen.length * 2),
  }
  chosen.forEach((s, i) => {
    for (let k = 0; k < 6; k++) own[i * 6 + k] = places[s * 6 + k]!
    sub.texels[i] = texels[s]!
    sub.triangles[i] = triangles[s]!
    for (let k = 0; k < 2; k++) sub.weights[i * 2 + k] = weights[s * 2 + k]!
  })

  /** Of each sample where its terms begin; a term is a chosen sample and its weight. */
  const starts = new Uint32Array(count + 1)
  let terms = new Uint32Array(count * 6)
  let ratios = new Float32Array(count * 6)
  let n = 0
  const reach = step
  for (let s = 0; s < count; s++) {
    const x = xs[s]!
    const y = ys[s]!
    const column = Math.floor(x / step)
    const row = Math.floor(y / step)
    if (n + 64 > terms.length) [terms, ratios] = [longer(terms), longer(ratios)]
    const [right, foot] = [Math.min(across - 1, column + 1), Math.min(down - 1, row + 1)]
    for (let r = Math.max(0, row - 1); r <= foot; r++)
      for (let c = Math.max(0, column - 1); c <= right; c++)
        for (let one = last[r * across + c]!; one >= 0 && n < starts[s]! + 64; one = before[one]!) {
          const other = chosen[one]!
          const dx = Math.abs(xs[other]! - x)
          const dy = Math.abs(ys[other]! - y)
          if (dx >= reach || dy >= reach) continue
          const ratio = alike(s, other) * (1 - dx / reach) * (1 - dy / reach)
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
      for (let s = 0; s < count; s++) {
        let sum = 0
        let a = 0
        let b = 0
        let c = 0
        for (let t = starts[s]!; t < starts[s + 1]!; t++) {
          const at = terms[t]! * each
          const ratio = ratios[t]!
          if (Number.isNaN(values[at]!)) continue
          sum += ratio
          a += values[at]! * ratio
          if (each === 1) continue
          b += values[at + 1]! * ratio
          c += values[at + 2]! * ratio
        }
        out[s * each] = sum > 0 ? a / sum : NaN
        if (each === 1) continue
        out[s * each + 1] = b / sum
        out[s * each + 2] = c / sum
      }
      return out
    },
  }
}

/** The same numbers with twice the room. */
function longer<T extends Uint32Array | Float32Array>(values: T): T {
  const out = new (values.constructor as new (length: number) => T)(values.length * 2)
  out.set(values)
  return out
}
