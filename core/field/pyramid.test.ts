import { python } from '../testing/python'
import type { RasterImage } from './pyramid'
import { buildPyramid, imageKey, makePyramid } from './pyramid'

const raw = { image: 'a', encoded: false, premultiplied: false }
const picture = (
  channels: 1 | 2 | 3 | 4,
  values: number[],
  width = values.length / channels,
  more: Partial<RasterImage> = {},
): RasterImage => ({
  width,
  height: values.length / channels / width,
  channels,
  values: Float32Array.from(values),
  bits: 8,
  float: false,
  ...more,
})
const base = (image: RasterImage, request = raw): number[] => [...makePyramid(image, request).levels[0]!.texels]
const random = (count: number): Float32Array => {
  let state = 1
  return Float32Array.from({ length: count }, () => (state = (state * 48271) % 2147483647) / 2147483647)
}

describe('halving', () => {
  it('is the mean of 2 × 2 texels on every level (NumPy)', () => {
    const texels = random(64 * 32 * 4)
    const { levels } = buildPyramid({ width: 64, height: 32, texels })
    expect(levels.map(({ width, height }) => [width, height])).toEqual([
      [64, 32],
      [32, 16],
      [16, 8],
      [8, 4],
      [4, 2],
      [2, 1],
      [1, 1],
    ])
    for (let k = 1; k <= 5; k++) {
      const code = `out = a.reshape(${32 >> k}, ${1 << k}, ${64 >> k}, ${1 << k}, 4).mean(axis=(1, 3))`
      const expected = python(code, texels, [32, 64, 4])
      expect(levels[k]!.texels).toHaveLength(expected.length)
      levels[k]!.texels.forEach((v, i) => expect(Math.abs(v - expected[i]!)).toBeLessThan(1e-6))
    }
  })

  it('repeats the last row and column of odd sides (NumPy, edge padding)', () => {
    const texels = random(5 * 3 * 4)
    const { levels } = buildPyramid({ width: 5, height: 3, texels })
    const code = `out = np.pad(a, ((0, 1), (0, 1), (0, 0)), mode='edge').reshape(2, 2, 3, 2, 4).mean(axis=(1, 3))`
    const expected = python(code, texels, [3, 5, 4])
    expect(levels[1]).toMatchObject({ width: 3, height: 2 })
    levels[1]!.texels.forEach((v, i) => expect(Math.abs(v - expected[i]!)).toBeLessThan(1e-6))
    expect(levels.at(-1)).toMatchObject({ width: 1, height: 1 })
  })

  it('of a picture of one texel has nothing to do', () => {
    expect(buildPyramid({ width: 1, height: 1, texels: Float32Array.of(1, 2, 3, 4) }).levels).toHaveLength(1)
  })
})

describe('what a texel becomes', () => {
  it('grey spreads over the colours; alpha is one where there is none', () => {
    expect(base(picture(1, [0.25]))).toEqual([0.25, 0.25, 0.25, 1])
    expect(base(picture(2, [0.5, 0.5]))).toEqual([0.25, 0.25, 0.25, 0.5])
    expect(base(picture(3, [0.5, 0.25, 1]))).toEqual([0.5, 0.25, 1, 1])
    expect(base(picture(4, [0.5, 0.25, 1, 0.5]))).toEqual([0.25, 0.125, 0.5, 0.5])
  })

  it('what is premultiplied already is not multiplied again', () => {
    expect(base(picture(4, [0.25, 0.125, 0.5, 0.5]), { ...raw, premultiplied: true })).toEqual([0.25, 0.125, 0.5, 0.5])
  })

  it('hidden colour does not bleed into smaller levels', () => {
    const { levels } = makePyramid(picture(4, [1, 0, 0, 1, 0, 1, 0, 0]), raw)
    expect([...levels[1]!.texels]).toEqual([0.5, 0, 0, 0.5])
  })

  it.each([
    // Source: IEC 61966-2-1, the decoding curve: 0.5 → 0.21404, 0.04 → 0.04 / 12.92.
    [0.5, 0.21404114],
    [0.04, 0.04 / 12.92],
    [1, 1],
    [0, 0],
  ])('encoded %d is %d in linear light, for 16 bits by formula', (code, light) => {
    const [r, , , a] = base(picture(3, [code, code, code], 1, { bits: 16 }), { ...raw, encoded: true })
    expect(r).toBeCloseTo(light, 6)
    expect(a).toBe(1)
  })

  it('8 bits by table and 16 bits by formula agree on the 256 codes', () => {
    const codes = Array.from({ length: 256 }, (_, i) => i / 255)
    const encoded = { ...raw, encoded: true }
    const byTable = base(picture(1, codes), encoded)
    const byFormula = base(picture(1, codes, 256, { bits: 16 }), encoded)
    byTable.forEach((v, i) => expect(Math.abs(v - byFormula[i]!)).toBeLessThan(1e-6))
  })

  it('alpha is never decoded, and floats are linear already', () => {
    const encoded = { ...raw, encoded: true }
    expect(base(picture(2, [1, 0.5]), encoded)).toEqual([0.5, 0.5, 0.5, 0.5])
    expect(base(picture(1, [0.5], 1, { bits: 32, float: true }), encoded)).toEqual([0.5, 0.5, 0.5, 1])
  })
})

it('each way an image is meant is one of its own', () => {
  const keys = [true, false].flatMap((encoded) =>
    [true, false].map((premultiplied) => imageKey({ image: 'a', encoded, premultiplied })),
  )
  expect(new Set(keys).size).toBe(4)
})
