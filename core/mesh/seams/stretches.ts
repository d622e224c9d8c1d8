/** Stretches of texels and what each of them counts, as a PatchSet has them (field/patches.ts). */
export interface Stretches {
  readonly stretches: Uint32Array
  readonly ratios: Float32Array
}

/** Numbers of texels that are told apart. */
const NUMBERS = 2 ** 26

/**
 * Texels beside seams as stretches of a raster's rows, each with what the mean of both sides counts there beside the texel's own value. One
 * may come several times: beside several seams. `ratios` by number how far a texel goes towards the other side, so that in the end it is
 * (own + Σ weight · (own + other) / 2) / (1 + Σ weight): where it goes `in turn`, from what the one before has left; else from its own
 * value, as what is added `at once`.
 */
export function inStretches(
  texels: Uint32Array,
  weights: Float32Array,
  { columns, size }: { readonly columns: number; readonly size: number },
  how: 'in turn' | 'at once',
): Stretches {
  const stretches = stretchesOf(texels, columns)
  // Memory that is not written takes none.
  const sums = new Float32Array(size)
  for (let i = 0; i < texels.length; i++) sums[texels[i]!] = sums[texels[i]!]! + weights[i]!
  const ratios = new Float32Array(texels.length)
  // How far those after it go.
  const after = new Float32Array(how === 'in turn' ? size : 0)
  for (let s = stretches.length - 3; s >= 0; s -= 3)
    for (let k = 0; k < stretches[s + 2]!; k++) {
      const texel = stretches[s]! + k
      const number = stretches[s + 1]! + k
      const ratio = weights[number]! / (2 * (1 + sums[texel]!))
      if (how === 'at once') ratios[number] = ratio
      else {
        ratios[number] = ratio / (1 - after[texel]!)
        after[texel] = after[texel]! + ratio
      }
    }
  return { stretches, ratios }
}

function stretchesOf(texels: Uint32Array, columns: number): Uint32Array {
  const begins = (i: number): boolean => i === 0 || texels[i] !== texels[i - 1]! + 1 || texels[i]! % columns === 0
  let count = 0
  for (let i = 0; i < texels.length; i++) if (begins(i)) count++
  const order = new Float64Array(count)
  const lengths = new Uint32Array(texels.length)
  let [n, first] = [0, 0]
  for (let i = 0; i < texels.length; i++) {
    if (begins(i)) {
      first = i
      order[n++] = texels[i]! * NUMBERS + i
    }
    lengths[first] = i + 1 - first
  }
  order.sort()
  const stretches = new Uint32Array(count * 3)
  order.forEach((one, s) => {
    const number = one % NUMBERS
    stretches[s * 3] = texels[number]!
    stretches[s * 3 + 1] = number
    stretches[s * 3 + 2] = lengths[number]!
  })
  return stretches
}
