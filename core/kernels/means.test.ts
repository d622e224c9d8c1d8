import { randomNumbers } from '../testing/random-values'
import { meansOfSamples } from './means'

const WIDTH = 200

/** Means one sample after the other, as kernels/assembly/means.ts says what they are. */
function plainMeans(
  values: Float32Array,
  texels: Uint32Array,
  type: string,
): { planes: Float32Array[]; known: Uint8Array } {
  const each = values.length / texels.length
  const planes = Array.from({ length: each }, () => new Float32Array(WIDTH).fill(9))
  const known = new Uint8Array(WIDTH)
  for (const texel of new Set(texels)) {
    const own = [...texels.keys()].filter((i) => texels[i] === texel && !Number.isNaN(values[i * each]!))
    if (own.length === 0) continue
    const counted = type === 'id' ? own.slice(0, 1) : own
    // Of what is many the mean is rounded; adding to 0 makes 0 of −0.
    const sum = Array.from({ length: each }, (_, k) => counted.reduce((sum, i) => sum + values[i * each + k]!, 0))
    const mean = sum.map((one) => (counted.length > 1 ? Math.fround(one / counted.length) : one))
    const length = Math.sqrt(mean.reduce((square, one) => square + one * one, 0))
    const unit = length > 0 ? mean.map((one) => one / length) : [0, 1, 0]
    known[texel] = 1
    ;(type === 'normal' ? unit : mean).forEach((one, k) => (planes[k]![texel] = one))
  }
  return { planes, known }
}

test.each([
  ['grey', 1],
  ['id', 1],
  ['vector', 3],
  ['normal', 3],
] as const)('means of samples, alone in their texels side by side or many in one: %s', (type, each) => {
  for (let seed = 1; seed <= 40; seed++) {
    const random = randomNumbers(seed)
    const texels: number[] = []
    // Runs of texels with one sample each, some with several, and gaps.
    for (let texel = 0; texel < WIDTH; texel += random() < 0.1 ? 3 : 1)
      for (let n = random() < 0.15 ? 4 : 1; n > 0; n--) texels.push(texel)
    const value = (): number => (random() < 0.05 ? NaN : random() < 0.1 ? -0 : Math.fround(random() * 4 - 2))
    const values = Float32Array.from({ length: texels.length * each }, value)
    // What is known has all of its numbers; some directions have no length.
    for (let i = 0; i < values.length; i++) if (i % each > 0 && Number.isNaN(values[i]!)) values[i] = 0
    for (let i = 0; i < values.length; i += each) if (random() < 0.05) values.fill(-0, i, i + each)
    const planes = Array.from({ length: each }, () => new Float32Array(WIDTH).fill(9))
    const known = new Uint8Array(WIDTH)
    const [x, y, z] = planes as [Float32Array, Float32Array?, Float32Array?]
    const missed = meansOfSamples(values, Uint32Array.from(texels), { x, ...(y && z ? { y, z } : {}), known }, type)
    const plain = plainMeans(values, Uint32Array.from(texels), type)
    expect(planes.map((plane) => [...new Uint32Array(plane.buffer)])).toEqual(
      plain.planes.map((plane) => [...new Uint32Array(plane.buffer)]),
    )
    expect(known).toEqual(plain.known)
    expect(missed).toBe(new Set(texels).size - plain.known.reduce((sum, one) => sum + one, 0))
  }
})
