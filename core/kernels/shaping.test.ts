import { interpolate, converter } from 'culori'
import { createField } from '../field/field'
import { largestDifference, noisyField } from '../testing/fields'
import { python } from '../testing/python'
import { buildPyramid, makePyramid } from '../field/pyramid'
import type { Rgb } from '../colour/srgb'
import { hexToLinear } from '../colour/srgb'
import { gradientLookup } from './gradient'
import { imageReader } from './image-sampling'
import { applyLevels } from './levels'
import { rampAt } from './ramps'
import { allRows } from './rows'
import { warpField } from './warp'

describe('gradients', () => {
  const hexes = ['#1b2a41', '#b4690e', '#f0e6d2', '#2f6f4f']
  const places = [0, 0.3, 0.7, 1]
  const stops = hexes.map((hex, i) => ({ at: places[i]!, colour: hexToLinear(hex) }))
  const toLinear = converter('lrgb')

  test.each([
    ['oklab', 'oklab'],
    ['linear', 'lrgb'],
    ['srgb', 'rgb'],
  ] as const)('mixing in %s equals culori 4', (space, mode) => {
    const theirs = interpolate(
      hexes.map((hex, i): [string, number] => [hex, places[i]!]),
      mode,
    )
    const ours = gradientLookup(stops, space, 'linear')
    for (let v = 0; v <= 1; v += 0.01) {
      const { r, g, b } = toLinear(theirs(v))
      ours(v).forEach((c, i) => expect(Math.abs(c - [r, g, b][i]!)).toBeLessThan(2e-6))
    }
  })

  test('holds beyond its ends, steps where asked, eases by 3t² − 2t³', () => {
    const black: Rgb = [0, 0, 0]
    const white: Rgb = [1, 1, 1]
    const two = [
      { at: 0.25, colour: black },
      { at: 0.75, colour: white },
    ]
    const smooth = gradientLookup(two, 'linear', 'smooth')
    expect(smooth(-1)).toEqual(black)
    expect(smooth(2)).toEqual(white)
    expect(smooth(0.375)[0]).toBeCloseTo(3 / 16 - 2 / 64, 12)
    const stepped = gradientLookup(two, 'linear', 'stepped')
    expect([stepped(0.7499), stepped(0.75)]).toEqual([black, white])
    expect(gradientLookup([{ at: 0.5, colour: white }], 'oklab', 'linear')(0.1)).toEqual(white)
    expect(() => gradientLookup([], 'oklab', 'linear')).toThrow(RangeError)
  })
})

test('levels: ends, gamma as an exponent 1/γ, clamping, a hard step, the mirrored part', () => {
  const plain = { low: 0.2, high: 0.7, gamma: 1, outLow: 0.1, outHigh: 0.9, clamp: false }
  expect(applyLevels(0.2, plain)).toBeCloseTo(0.1, 12)
  expect(applyLevels(0.7, plain)).toBeCloseTo(0.9, 12)
  expect(applyLevels(1.2, plain)).toBeCloseTo(1.7, 12)
  expect(applyLevels(1.2, { ...plain, clamp: true })).toBeCloseTo(0.9, 12)
  expect(applyLevels(0.45, { ...plain, gamma: 2 })).toBeCloseTo(0.1 + 0.8 * 0.5 ** 0.5, 9)
  expect(applyLevels(-0.05, { ...plain, gamma: 2 })).toBeCloseTo(0.1 - 0.8 * 0.5 ** 0.5, 9)
  const step = { low: 0.5, high: 0.5, gamma: 1, outLow: 0, outHigh: 1, clamp: true }
  expect([applyLevels(0.4999, step), applyLevels(0.5, step)]).toEqual([0, 1])
})

describe('ramps', () => {
  const base = { centre: [0.5, 0.5], angle: 0, radius: 0.5, exponent: 1, repeat: 1, mirror: false } as const
  test('each shape at places worked out by hand', () => {
    const at = (shape: 'linear' | 'radial' | 'angular' | 'diamond' | 'box', u: number, v: number, more = {}) =>
      rampAt({ ...base, shape, ...more }, 1 / 4096)(u, v)
    expect(at('linear', 0.25, 0.9)).toBeCloseTo(0.25, 9)
    expect(at('linear', 0.5, 0.25, { angle: 0.25 })).toBeCloseTo(0.75, 9) // a quarter turn: towards row 0
    expect(at('radial', 0.5 + 0.3, 0.5 + 0.4)).toBeCloseTo(1, 9)
    expect(at('radial', 0.5 + 0.15, 0.5 + 0.2)).toBeCloseTo(0.5, 9)
    expect(at('radial', 0.5 + 0.15, 0.5 + 0.2, { exponent: 2 })).toBeCloseTo(0.25, 9)
    expect(at('diamond', 0.6, 0.7)).toBeCloseTo(0.6, 9)
    expect(at('box', 0.6, 0.7)).toBeCloseTo(0.4, 9)
    expect(at('angular', 0.5, 0.3)).toBeCloseTo(0.25, 3) // straight up is a quarter turn
    expect(at('angular', 0.3, 0.5)).toBeCloseTo(0.5, 3)
    expect(at('linear', 0.4, 0.5, { repeat: 3 })).toBeCloseTo(0.2, 9) // 1.2 folds to 0.2
    expect(at('linear', 0.4, 0.5, { repeat: 3, mirror: true })).toBeCloseTo(0.8, 9)
  })

  test('a repeated jump is averaged over a texel: equal to 4096 samples of the sharp ramp', () => {
    const texel = 1 / 64
    const ramp = { ...base, shape: 'linear', repeat: 5 } as const
    const sharp = (u: number) => 5 * u - Math.floor(5 * u)
    for (const u of [0.1999, 0.2, 0.203, 0.41, 0.6]) {
      let sum = 0
      for (let k = 0; k < 4096; k++) sum += sharp(u + ((k + 0.5) / 4096 - 0.5) * texel)
      expect(rampAt(ramp, texel)(u, 0.5)).toBeCloseTo(sum / 4096, 3)
    }
  })
})

test('a push by a fixed offset equals scipy.ndimage.shift, linear, grid-wrap', () => {
  const [w, h] = [40, 24]
  const field = noisyField(w, h, 9)
  const out = createField('grey', w, h)
  const [dx, dy] = [3.25, -7.6]
  warpField(field, out, allRows(h), 1, 'average', (_x, _y, _d, offset) => offset.set([dx / w, dy / w]))
  const theirs = python(
    `from scipy import ndimage\nout = ndimage.shift(a, (${dy}, ${dx}), order=1, mode="grid-wrap", prefilter=False)`,
    field.planes[0]!,
    [h, w],
  )
  expect(largestDifference(out.planes[0]!, theirs)).toBeLessThan(1e-5)
})

describe('reading images', () => {
  const [w, h] = [16, 8]
  const texels = Float32Array.from({ length: w * h * 4 }, (_, i) => ((i * 7919) % 255) / 255)
  const level0 = { width: w, height: h, texels }

  test('at its own size: bilinear equals scipy.ndimage.map_coordinates, for each edge', () => {
    for (const [edge, mode] of [
      ['tile', 'grid-wrap'],
      ['clamp', 'nearest'],
      ['mirror', 'reflect'],
    ] as const) {
      const read = imageReader({ levels: [level0] }, edge, [1 / w, 1 / h])
      const places = Array.from({ length: 50 }, (_, i) => [((i * 0.137) % 2) - 0.5, ((i * 0.311) % 2) - 0.5] as const)
      const out = new Float64Array(4)
      const ours = places.map(([u, v]) => (read(u, v, out), out[1]!))
      const theirs = python(
        `from scipy import ndimage\np = np.array(${JSON.stringify(places)})\n` +
          `out = ndimage.map_coordinates(a[:, :, 1], [p[:, 1] * ${h} - 0.5, p[:, 0] * ${w} - 0.5], order=1, mode="${mode}")`,
        texels,
        [h, w, 4],
      )
      expect(largestDifference(ours, theirs)).toBeLessThan(1e-6)
    }
  })

  test('mip levels average 2 × 2 texels; a footprint of four texels reads the second level', () => {
    const { levels } = buildPyramid(level0)
    expect(levels.map((level) => [level.width, level.height])).toEqual([
      [16, 8],
      [8, 4],
      [4, 2],
      [2, 1],
      [1, 1],
    ])
    const mean = python(`out = a.reshape(2, 4, 4, 4, 4).mean(axis=(1, 3))`, texels, [h, w, 4])
    expect(largestDifference(levels[2]!.texels, mean)).toBeLessThan(1e-6)
    const out = new Float64Array(4)
    imageReader({ levels }, 'tile', [4 / w, 4 / h])(2.5 / 4, 0.5 / 2, out)
    expect(largestDifference(out, mean.subarray(2 * 4, 2 * 4 + 4))).toBeLessThan(1e-6)
  })

  test('colours are made linear and multiplied by alpha once, however they were stored', () => {
    const image = {
      width: 1,
      height: 1,
      channels: 4,
      values: Float32Array.of(0.5, 0.25, 1, 0.5),
      bits: 8,
      float: false,
    } as const
    const first = (request: object) => [
      ...makePyramid(image, { image: '', encoded: false, premultiplied: false, ...request }).levels[0]!.texels,
    ]
    expect(first({})).toEqual([0.25, 0.125, 0.5, 0.5])
    expect(first({ premultiplied: true })).toEqual([0.5, 0.25, 1, 0.5])
    const [r, , , a] = first({ encoded: true })
    expect(a).toBe(0.5)
    expect(r).toBeCloseTo(0.5 * ((128 / 255 + 0.055) / 1.055) ** 2.4, 6) // 0.5 is stored as code 128 in 8 bits
  })
})
