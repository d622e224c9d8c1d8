import { converter, differenceEuclidean } from 'culori'
import { hexToLinear } from '../colour/srgb'
import { createField } from '../field/field'
import { monotoneCurve } from '../kernels/curve'
import { quantiles } from '../kernels/quantiles'
import { fieldOf, largestDifference, noisyField } from '../testing/fields'
import { python } from '../testing/python'
import { constant, runNode, values } from '../testing/run-node'

describe('tone', () => {
  test('the curve is SciPy’s PchipInterpolator (Fritsch and Butland 1984), held at its ends', () => {
    const points = [
      { at: 0.05, to: 0.1 },
      { at: 0.2, to: 0.6 },
      { at: 0.3, to: 0.6 },
      { at: 0.6, to: 0.2 },
      { at: 0.95, to: 0.9 },
    ]
    const places = Float32Array.from({ length: 200 }, (_, i) => i / 199)
    const theirs = python(
      `from scipy.interpolate import PchipInterpolator
p = PchipInterpolator(${JSON.stringify(points.map(({ at }) => at))}, ${JSON.stringify(points.map(({ to }) => to))})
out = p(np.clip(a, 0.05, 0.95))`,
      places,
      [200],
    )
    expect(largestDifference(places.map(monotoneCurve(points)), theirs)).toBeLessThan(1e-6)
    const straight = monotoneCurve([
      { at: 0, to: 0.2 },
      { at: 1, to: 0.8 },
    ])
    expect(straight(0.25)).toBeCloseTo(0.35, 12)
  })

  test('quantiles are numpy.quantile (linear), over negative and equal values too', () => {
    const plane = noisyField(37, 23, 4).planes[0]!.map((v, i) => (i % 7 === 0 ? 0.25 : (v - 0.4) * 100))
    const ratios = [0, 0.005, 0.13, 0.5, 0.77, 0.999, 1]
    const theirs = python(`out = np.quantile(a, ${JSON.stringify(ratios)})`, plane, [plane.length])
    expect(largestDifference(quantiles([plane], ratios), theirs)).toBeLessThan(1e-5)
  })

  test('auto range puts its percentiles at the ends; a flat field becomes the low end', () => {
    const source = noisyField(64, 64, 8)
    const out = values(runNode('auto-range', { source }, { lowRatio: 0.1, highRatio: 0.2, clamp: false }).result)
    expect([0.1, 0.8].map((ratio) => Math.round(quantiles([out], [ratio])[0]! * 1e5) / 1e5)).toEqual([0, 1])
    expect(new Set(values(runNode('auto-range', { source: constant(0.7) }, { toLow: 0.2 }).result))).toEqual(
      new Set([Math.fround(0.2)]),
    )
  })

  test('bias and gain: Schlick’s fixed points, and the closed form at one place', () => {
    const at = (v: number, bias: number, gain: number) =>
      values(runNode('bias-gain', { source: constant(v) }, { bias, gain }).result)[0]!
    expect(at(0.5, 0.2, 0.5)).toBeCloseTo(0.2, 6)
    expect([at(0, 0.3, 0.8), at(1, 0.3, 0.8), at(0.5, 0.5, 0.9)]).toEqual([0, 1, 0.5])
    // gain is bias(2t, 1 − a)/2 below the middle (Perlin and Hoffert 1989, equation 8, from memory) in Schlick's bias.
    expect(at(0.25, 0.5, 0.3)).toBeCloseTo(0.25 / ((1 / 0.7 - 2) * 0.5 + 1), 6)
  })

  test('remap is a straight line, clamped where asked, a step where the range is empty', () => {
    const at = (v: number, params: Record<string, unknown>) =>
      values(runNode('remap', { source: constant(v) }, params).result)[0]!
    expect(at(0.5, { fromLow: 0.25, fromHigh: 0.75, toLow: 2, toHigh: 4 })).toBe(3)
    expect(at(2, { toLow: 1, toHigh: 0 })).toBe(-1)
    expect(at(2, { toLow: 1, toHigh: 0, clamp: true })).toBe(0)
    expect([at(0.49, { fromLow: 0.5, fromHigh: 0.5 }), at(0.5, { fromLow: 0.5, fromHigh: 0.5 })]).toEqual([0, 1])
  })

  test('hue, saturation and distance are culori 4’s Oklab and Oklch', () => {
    const toOklch = converter('oklch')
    const toLinear = converter('lrgb')
    const hexes = ['#7a6f5a', '#2f4a5a', '#b4690e', '#808080', '#10e0a0', '#000000', '#ffffff', '#ff0000']
    const source = fieldOf('colour', 8, 1, (x, _, p) => hexToLinear(hexes[x]!)[p]!)
    const turned = runNode('adjust-colour', { source }, { hue: 0.2, saturation: 0.7, brightness: 0.05, contrast: 1.1 })
    const off = runNode('colour-mask', { source }, { centre: '#445566' }).distance
    hexes.forEach((hex, x) => {
      const { l, c, h } = toOklch(hex)!
      const theirs = toLinear({ mode: 'oklch', l: (l - 0.5) * 1.1 + 0.55, c: c * 0.7, h: (h ?? 0) + 72 })
      for (const [p, v] of [theirs.r, theirs.g, theirs.b].entries())
        expect(Math.abs(values(turned.result, p)[x]! - v)).toBeLessThan(3e-6)
      const distance = differenceEuclidean('oklab')(hex, '#445566')
      expect(Math.abs(values(off)[x]! - distance)).toBeLessThan(2e-6)
    })
  })

  test('near colour takes what is within the tolerance; without lightness only hue and chroma count', () => {
    const hexes = ['#7a6f5a', '#7d725d', '#2040c0', '#a79b83']
    const source = fieldOf('colour', 4, 4, (x, _, p) => hexToLinear(hexes[x]!)[p]!)
    const mask = (params: Record<string, unknown>) =>
      [...values(runNode('colour-mask', { source }, { centre: '#7a6f5a', softness: 0, ...params }).mask)].slice(0, 4)
    expect(mask({ tolerance: 0.05 })).toEqual([1, 1, 0, 0])
    expect(mask({ tolerance: 0.05, lightness: 0 })).toEqual([1, 1, 0, 1])
  })
})

describe('channels', () => {
  test('split and join give back what came in; sRGB greys are decoded', () => {
    const source = fieldOf('colour', 8, 8, (x, y, p) => (x + 2 * y + 3 * p) / 40)
    const { first, second, third } = runNode('split', { source })
    const { colour, vector } = runNode('join', { first: first!, second: second!, third: third! })
    expect(colour!.planes).toEqual(source.planes)
    expect(vector!.planes).toEqual(source.planes.slice(0, 2))
    const grey = constant(0.5)
    // IEC 61966-2-1: 0.5 decodes to 0.21404.
    expect(
      values(runNode('join', { first: grey, second: grey, third: grey }, { encoding: 'srgb' }).colour)[0],
    ).toBeCloseTo(0.2140411, 6)
  })

  test('two greys about 0.5 are the x and y of a normal, whose z makes its length 1; what is too long lies flat', () => {
    const of = (x: number, y: number): number[] =>
      runNode('join', { first: constant(x), second: constant(y), third: constant(0) }).normal!.planes.map((p) => p[0]!)
    expect(of(0.5, 0.5)).toEqual([0, 0, 1])
    of(0.8, 0.5).forEach((v, k) => expect(v).toBeCloseTo([0.6, 0, 0.8][k]!, 6))
    of(0, 1).forEach((v, k) => expect(v).toBeCloseTo([-Math.SQRT1_2, Math.SQRT1_2, 0][k]!, 6))
  })

  test('to grey: Rec. 709 luminance of the primaries, the slope of a normal', () => {
    const primaries = fieldOf('colour', 4, 4, (x, _, p) => (x === p ? 1 : 0))
    const at = (method: string) => [...values(runNode('to-grey', { source: primaries }, { method }).result)].slice(0, 3)
    at('luminance').forEach((v, i) => expect(v).toBeCloseTo([0.2126, 0.7152, 0.0722][i]!, 6))
    expect([at('maximum'), at('minimum'), at('second')]).toEqual([
      [1, 1, 1],
      [0, 0, 0],
      [0, 1, 0],
    ])
    const leaning = fieldOf('normal', 4, 4, (_, __, p) => [0.6, 0, 0.8][p]!)
    expect(values(runNode('to-grey', { source: leaning }, { method: 'slope' }).result)[0]).toBeCloseTo(0.6, 6)
  })

  test('select lets the chosen one through, and deals IDs out to those that are connected', () => {
    const [a, b, c] = [constant(0.1), constant(0.2), constant(0.3)]
    expect(values(runNode('select', { first: a, third: c }, { choose: 3 }).result)[0]).toBe(Math.fround(0.3))
    expect(values(runNode('select', { first: a, third: c }, { choose: 2 }).result)[0]).toBe(Math.fround(0.1))
    const by = createField('id', 8, 8)
    by.ids!.forEach((_, i) => (by.ids![i] = i))
    const dealt = values(runNode('select', { first: a, second: b, third: c, by }, { shuffle: false }).result)
    expect([...dealt].slice(0, 4)).toEqual([0.1, 0.2, 0.3, 0.1].map(Math.fround))
    const shuffled = values(runNode('select', { first: a, second: b, third: c, by }).result)
    for (const v of [0.1, 0.2, 0.3]) expect(shuffled.filter((one) => one === Math.fround(v)).length).toBeGreaterThan(10)
  })
})
