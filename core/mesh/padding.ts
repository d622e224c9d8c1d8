import { requiredSimd } from '../kernels/simd'

/**
 * For every texel the nearest that is covered, itself where it is; −1 beyond `most` texels or where none is. Distances are exact;
 * among equals the upper, then the left one counts. They are put into `out` where that is given.
 * Source: P. Felzenszwalb, D. Huttenlocher, "Distance transforms of sampled functions", 2012, carrying along what it is a distance to.
 */
export function nearestCovered(
  covered: Uint8Array,
  width: number,
  height: number,
  most = Infinity,
  out: Int32Array = new Int32Array(covered.length),
): Int32Array {
  const twin = requiredSimd('The nearest texels are found')
  return twin.scratch(() => {
    const words = (count: number): number => twin.take(count)
    const inPlace = twin.inPlaceAll([covered, out])
    const from = inPlace?.[0] ?? words(Math.ceil(covered.length / 4))
    const texels = inPlace?.[1] ?? words(covered.length)
    if (!inPlace) twin.bytes(from, covered.length).set(covered)
    twin.assembly.nearestRows(from, texels, words(width), width, height)
    const rooms = [words(2 * width), words(2 * width), words(2 * width)] as const
    twin.assembly.nearestTexels(texels, 0, height, width, most * most, ...rooms)
    if (!inPlace) out.set(twin.ints(texels, covered.length))
    return out
  })
}
