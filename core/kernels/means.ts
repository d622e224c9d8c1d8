import { bakingSimd, borrowed, wordsAt } from './baking-room'

/** Texels of some rows that means go to: one plane or three, and 1 where there is a value. */
export interface MeanTexels {
  readonly x: Float32Array
  readonly y?: Float32Array
  readonly z?: Float32Array
  readonly known: Uint8Array
}

/**
 * Puts means of samples, in order of their `texels`, into these; `values` are as many numbers each as there are planes, NaN in the first of
 * a sample that has none. Whole numbers (`id`) are not mixed: the first sample's counts; a `normal` is brought to length 1. Gives how many
 * texels have none.
 */
export function meansOfSamples(
  values: Float32Array,
  texels: Uint32Array,
  { x, y, z, known }: MeanTexels,
  type: string,
): number {
  const twin = bakingSimd()
  return twin.scratch(() => {
    const homes = [x, y, z, known].map((plane) => plane && borrowed(twin, plane))
    const [atX, atY, atZ, atKnown] = homes.map((home) => home?.at ?? 0) as [number, number, number, number]
    const told = [twin.allOf(values), wordsAt(twin, texels), texels.length, type === 'id', type === 'normal'] as const
    const missed = twin.assembly.meansOfSamples(...told, atX, atY, atZ, atKnown)
    for (const home of homes) home?.done()
    return missed
  })
}

/** Sets 1 at the `texels` of `covered`. */
export function coverTexels(texels: Uint32Array, covered: Uint8Array): void {
  const twin = bakingSimd()
  twin.scratch(() => {
    const home = borrowed(twin, covered)
    twin.assembly.coverTexels(wordsAt(twin, texels), texels.length, home.at)
    home.done()
  })
}
