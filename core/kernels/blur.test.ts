import { fieldOf, largestDifference, noisyField } from '../testing/fields'
import { python } from '../testing/python'
import { createField } from '../field/field'
import type { Field } from '../field/field'
import type { BlurProfile } from './blur'
import { blurPlane, gaussianTaps } from './blur'
import { allRows } from './rows'
import { levelWeight, variedBlur, variedLevels } from './varied-blur'

function blurred(source: Field, profile: BlurProfile): Float32Array {
  const out = new Float32Array(source.width * source.height)
  blurPlane(source, source.planes[0]!, profile, allRows(source.height), (y, row) => out.set(row, y * source.width))
  return out
}

const SIZE = [96, 128] as const

describe('Gaussian blur against SciPy 1, scipy.ndimage.gaussian_filter (mode wrap, truncate 4)', () => {
  test.each([0.4, 1, 2.5, 7, 15.9])('σ = %s texels: the sampled kernel', (sigma) => {
    const field = noisyField(SIZE[0], SIZE[1], 3)
    const theirs = python(
      `from scipy import ndimage\nout = ndimage.gaussian_filter(a, ${sigma}, mode="wrap", truncate=4.0)`,
      field.planes[0]!,
      [SIZE[1], SIZE[0]],
    )
    // SciPy cuts at round(4σ), ours at ⌈4σ⌉: they differ by one tap of weight exp(−8)/σ√2π at most.
    expect(largestDifference(blurred(field, { kind: 'gaussian', sigma }), theirs)).toBeLessThan(2.5e-4)
  })

  test.each([16.5, 24, 40, 60])('σ = %s texels: through averages, error below 1e-3', (sigma) => {
    const n = 256
    for (const field of [
      noisyField(n, n, 4),
      fieldOf('grey', n, n, (x, y) => (((x * 5) >> 8) + ((y * 3) >> 8)) % 2),
      fieldOf('grey', n, n, (x, y) => (x > 77 && x < 180 && y > 100 && y < 110 ? 1 : 0)),
    ]) {
      const theirs = python(
        `from scipy import ndimage\nout = ndimage.gaussian_filter(a, ${sigma}, mode="wrap", truncate=4.0)`,
        field.planes[0]!,
        [n, n],
      )
      expect(largestDifference(blurred(field, { kind: 'gaussian', sigma }), theirs)).toBeLessThan(1e-3)
    }
  })

  test('weights sum to one, so a constant stays and the mean of any field stays', () => {
    for (const sigma of [0.3, 1, 5, 15]) {
      const taps = gaussianTaps(sigma)
      expect(taps.reduce((sum, w, k) => sum + (k ? 2 * w : w), 0)).toBeCloseTo(1, 6)
    }
    const field = noisyField(64, 64, 8)
    const mean = (values: ArrayLike<number>): number => Array.from(values).reduce((a, b) => a + b, 0) / values.length
    for (const sigma of [2, 20])
      expect(mean(blurred(field, { kind: 'gaussian', sigma }))).toBeCloseTo(mean(field.planes[0]!), 5)
  })
})

test.each([17, 24, 40])(
  'a single bright texel keeps its place and peak within 1 %% of the exact Gaussian of σ %d',
  (sigma) => {
    const n = 512
    for (const [x, y] of [
      [256, 256],
      [257, 259],
      [3, 510],
    ] as const) {
      const field = createField('grey', n, n)
      field.planes[0]![y * n + x] = 1
      const out = blurred(field, { kind: 'gaussian', sigma })
      // The closed form (its sum over the raster is 1 to six digits), over the torus.
      const short = (d: number): number => Math.min(Math.abs(d), n - Math.abs(d))
      const peak = 1 / (2 * Math.PI * sigma * sigma)
      let max = 0
      for (let j = 0; j < n; j += 3)
        for (let i = 0; i < n; i += 3) {
          const exact = peak * Math.exp(-(short(i - x) ** 2 + short(j - y) ** 2) / (2 * sigma * sigma))
          max = Math.max(max, Math.abs(out[j * n + i]! - exact))
        }
      expect(max / peak).toBeLessThan(0.01)
    }
  },
)

test.each([1, 3, 10])('box blur of radius %s + ½ equals scipy.ndimage.uniform_filter of size 2r + 1', (r) => {
  const field = noisyField(SIZE[0], SIZE[1], 5)
  const theirs = python(
    `from scipy import ndimage\nout = ndimage.uniform_filter(a, ${2 * r + 1}, mode="wrap")`,
    field.planes[0]!,
    [SIZE[1], SIZE[0]],
  )
  expect(largestDifference(blurred(field, { kind: 'box', radius: r + 0.5 }), theirs)).toBeLessThan(2e-6)
})

describe('varied blur', () => {
  const n = 256
  const source = fieldOf(
    'grey',
    n,
    n,
    (x, y) => 0.5 + 0.25 * Math.sin((6 * Math.PI * x) / n) + 0.25 * Math.cos((10 * Math.PI * y) / n),
  )

  test('is within 1/255 of the evenly blurred field at each driver value', () => {
    const largest = 12
    for (const driver of [0, 0.03, 0.11, 0.25, 0.4, 0.618, 0.83, 1]) {
      const out = createField('grey', n, n)
      variedBlur(
        source,
        source.planes[0]!,
        'gaussian',
        largest,
        fieldOf('grey', n, n, () => driver),
        allRows(n),
        out,
        out.planes[0]!,
      )
      const even = blurred(source, { kind: 'gaussian', sigma: largest * driver })
      expect([driver, largestDifference(out.planes[0]!, even) < 1 / 255]).toEqual([driver, true])
    }
  })

  test('weights of all levels sum to one', () => {
    const count = variedLevels(12).length
    for (let driver = 0; driver <= 1; driver += 0.037) {
      let sum = 0
      for (let level = 0; level < count; level++) sum += levelWeight(level, count, driver)
      expect(sum).toBeCloseTo(1, 12)
    }
  })
})
