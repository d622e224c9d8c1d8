import type { Room } from './baking-room'
import { bakingSimd, roomFor, wordsAt, wordsIn } from './baking-room'

/*
 * Samples that stand for others in a draft; core/kernels/assembly/sparse.ts tells which.
 */

/** Samples of some rows of a picture `width` texels wide, in order of their texels. */
export interface SparseInput {
  readonly texels: Uint32Array
  readonly triangles: Uint32Array
  /** Place and normal of each, six numbers. */
  readonly places: Float32Array
  /** By triangle its island. */
  readonly islandOf: Uint32Array
  readonly width: number
  /** Texels of a side of the squares in which one is chosen. */
  readonly step: number
}

/**
 * Of each of `count` samples the chosen ones that it is made of, with their weights; those of the sample s from starts[s] to starts[s + 1].
 * Byte offsets in the kernels' memory, good as long as the room that all was made in.
 */
export interface SparseTerms {
  readonly count: number
  readonly starts: number
  readonly terms: number
  readonly ratios: number
}

/** Chosen samples that one is made of at most; a few are usual. */
const MAX_TERMS = 64
const USUAL_TERMS = 6

/** Chooses samples, and finds what the others are made of: `chosen` are numbers of samples. To be called within withRoom. */
export function chooseSparse(
  { texels, triangles, places, islandOf, width, step }: SparseInput,
  room: Room,
): SparseTerms & { readonly chosen: Uint32Array } {
  const twin = bakingSimd()
  const count = texels.length
  const across = Math.ceil(width / step)
  const down = count > 0 ? Math.floor(texels[count - 1]! / width / step) + 1 : 0
  const all = wordsIn(room, count)
  const samples = [
    wordsAt(twin, texels),
    wordsAt(twin, triangles),
    twin.allOf(places),
    wordsAt(twin, islandOf),
  ] as const
  const last = twin.take(across * down)
  twin.ints(last, across * down).fill(-1)
  const [before, xs, ys] = [twin.take(count), twin.take(count), twin.take(count)]
  const chosen = roomFor(twin, all)
  twin.assembly.beginSparse(last, before, chosen.at, xs, ys, twin.take(count), twin.take(count * 3))
  const made = twin.assembly.chooseSamples(...samples, count, width, step, across)
  chosen.done()
  const starts = twin.take(count + 1)
  twin.ints(starts, 1)[0] = 0
  let most = count * USUAL_TERMS + MAX_TERMS
  let [terms, ratios] = [twin.take(most), twin.take(most)]
  const size = [count, width, step, across, down, starts] as const
  for (let done = 0; ;) {
    done = twin.assembly.weighSamples(...samples, done, ...size, terms, ratios, MAX_TERMS, most)
    if (done === count) return { chosen: all.subarray(0, made), count, starts, terms, ratios }
    const longer = (at: number): number => {
      const to = twin.take(2 * most)
      twin.ints(to, most).set(twin.ints(at, most))
      return to
    }
    terms = longer(terms)
    ratios = longer(ratios)
    most *= 2
  }
}

/** Values of all samples from those of the chosen, `each` numbers a sample (1 or 3); NaN where none stands for it. */
export function spreadSparse(
  { count, starts, terms, ratios }: SparseTerms,
  values: Float32Array,
  each: number,
  room: Room,
): Float32Array {
  const twin = bakingSimd()
  const out = room(count * each)
  twin.scratch(() => {
    const to = roomFor(twin, out)
    const told = [twin.allOf(values), starts, terms, ratios, count, to.at] as const
    if (each === 1) twin.assembly.spreadGreys(...told)
    else twin.assembly.spreadTriples(...told)
    to.done()
  })
  return out
}
