import { requiredSimd } from '../kernels/simd'

/**
 * For every texel the nearest that is covered, itself where it is; −1 beyond `most` texels or where none is. Distances are exact;
 * among equals the upper, then the left one counts.
 * Source: P. Felzenszwalb, D. Huttenlocher, "Distance transforms of sampled functions", 2012, carrying along what it is a distance to.
 */
export function nearestCovered(covered: Uint8Array, width: number, height: number, most = Infinity): Int32Array {
  const twin = requiredSimd('The nearest texels are found')
  return twin.scratch(() => {
    const words = (count: number): number => twin.take(count)
    const from = words(Math.ceil(covered.length / 4))
    twin.bytes(from, covered.length).set(covered)
    const texels = words(covered.length)
    twin.assembly.nearestRows(from, texels, words(width), width, height)
    const rooms = [words(2 * width), words(2 * width), words(2 * width)] as const
    twin.assembly.nearestTexels(texels, 0, height, width, most * most, ...rooms)
    return twin.ints(texels, covered.length).slice()
  })
}

/** Texels that are filled from another: its number and that of the other, two each. */
export function filledFrom(nearest: Int32Array): Uint32Array {
  let count = 0
  for (let i = 0; i < nearest.length; i++) if (nearest[i]! >= 0 && nearest[i] !== i) count++
  const fills = new Uint32Array(count * 2)
  for (let i = 0, at = 0; i < nearest.length; i++) {
    if (nearest[i]! < 0 || nearest[i] === i) continue
    fills[at++] = i
    fills[at++] = nearest[i]!
  }
  return fills
}

/** Fills texels from others, in all planes. */
export function pad(planes: readonly Float32Array[], fills: Uint32Array): void {
  for (const plane of planes) for (let i = 0; i < fills.length; i += 2) plane[fills[i]!] = plane[fills[i + 1]!]!
}
