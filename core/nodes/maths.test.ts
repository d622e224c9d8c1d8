import { converter, differenceEuclidean } from 'culori'
import type { Field } from '../field/field'
import type { RasterImage } from '../field/pyramid'
import { makePyramid } from '../field/pyramid'
import { hexToLinear } from '../colour/srgb'
import { checkParameters } from '../graph/graph'
import { createField } from '../field/field'
import { allRows } from '../kernels/rows'
import { monotoneCurve } from '../kernels/curve'
import { changeTone, oklabDistance } from '../kernels/oklab-tones'
import { quantiles } from '../kernels/quantiles'
import { documentOf, evaluateOutputs } from '../testing/examples'
import { fieldOf, largestDifference, noisyField } from '../testing/fields'
import { python } from '../testing/python'
import { registry } from './registry.generated'

/** Runs a node on given fields; outputs by port. */
function run(
  type: string,
  inputs: Record<string, Field | null>,
  params: Record<string, unknown> = {},
  more: {
    width?: number
    height?: number
    metres?: readonly [number, number]
    heightMetres?: number
    images?: ReadonlyMap<string, unknown>
  } = {},
): Record<string, Field> {
  const node = registry.get(type)!
  const some = Object.values(inputs).find((field) => field !== null)
  const width = some?.width ?? more.width ?? 32
  const height = some?.height ?? more.height ?? width
  const kind = Object.entries(inputs).find(([name, field]) => field && node.inputs[name]?.type === 'same')?.[1]?.type
  const outputs = Object.fromEntries(
    Object.entries(node.outputs).map(([name, port]) => [
      name,
      createField(port.type === 'same' ? kind! : port.type, width, height),
    ]),
  )
  const all = Object.fromEntries(Object.keys(node.inputs).map((name) => [name, inputs[name] ?? null]))
  node.evaluate(all as never, checkParameters(node, params) as never, outputs as never, {
    width,
    height,
    rows: allRows(height),
    documentSeed: 1,
    metres: more.metres ?? [1, height / width],
    heightMetres: more.heightMetres ?? 0.05,
    images: (more.images ?? new Map()) as never,
  })
  return outputs
}

const values = (field: Field | undefined, plane = 0): Float32Array => field!.planes[plane]!
const constant = (v: number, n = 8): Field => fieldOf('grey', n, n, () => v)

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
    const shares = [0, 0.005, 0.13, 0.5, 0.77, 0.999, 1]
    const theirs = python(`out = np.quantile(a, ${JSON.stringify(shares)})`, plane, [plane.length])
    expect(largestDifference(quantiles([plane], shares), theirs)).toBeLessThan(1e-5)
  })

  test('auto range puts its percentiles at the ends; a flat field becomes the low end', () => {
    const source = noisyField(64, 64, 8)
    const out = values(run('auto-range', { source }, { lowShare: 0.1, highShare: 0.2, clamp: false }).result)
    expect([0.1, 0.8].map((share) => Math.round(quantiles([out], [share])[0]! * 1e5) / 1e5)).toEqual([0, 1])
    expect(new Set(values(run('auto-range', { source: constant(0.7) }, { toLow: 0.2 }).result))).toEqual(
      new Set([Math.fround(0.2)]),
    )
  })

  test('bias and gain: Schlick’s fixed points, and the closed form at one place', () => {
    const at = (v: number, bias: number, gain: number) =>
      values(run('bias-gain', { source: constant(v) }, { bias, gain }).result)[0]!
    expect(at(0.5, 0.2, 0.5)).toBeCloseTo(0.2, 6)
    expect([at(0, 0.3, 0.8), at(1, 0.3, 0.8), at(0.5, 0.5, 0.9)]).toEqual([0, 1, 0.5])
    // gain is bias(2t, 1 − a)/2 below the middle (Perlin and Hoffert 1989, equation 8, from memory) in Schlick's bias.
    expect(at(0.25, 0.5, 0.3)).toBeCloseTo(0.25 / ((1 / 0.7 - 2) * 0.5 + 1), 6)
  })

  test('remap is a straight line, clamped where asked, a step where the range is empty', () => {
    const at = (v: number, params: Record<string, unknown>) =>
      values(run('remap', { source: constant(v) }, params).result)[0]!
    expect(at(0.5, { fromLow: 0.25, fromHigh: 0.75, toLow: 2, toHigh: 4 })).toBe(3)
    expect(at(2, { toLow: 1, toHigh: 0 })).toBe(-1)
    expect(at(2, { toLow: 1, toHigh: 0, clamp: true })).toBe(0)
    expect([at(0.49, { fromLow: 0.5, fromHigh: 0.5 }), at(0.5, { fromLow: 0.5, fromHigh: 0.5 })]).toEqual([0, 1])
  })

  test('hue, saturation and distance are culori 4’s Oklab and Oklch', () => {
    const toOklch = converter('oklch')
    const toLinear = converter('lrgb')
    const turn = changeTone({ hue: 0.2, saturation: 0.7, brightness: 0.05, contrast: 1.1 })
    for (const hex of ['#7a6f5a', '#2f4a5a', '#b4690e', '#808080', '#10e0a0']) {
      const { l, c, h } = toOklch(hex)!
      const theirs = toLinear({ mode: 'oklch', l: (l - 0.5) * 1.1 + 0.55, c: c * 0.7, h: (h ?? 0) + 72 })
      turn(hexToLinear(hex)).forEach((v, i) =>
        expect(Math.abs(v - [theirs.r, theirs.g, theirs.b][i]!)).toBeLessThan(2e-5),
      )
      const distance = differenceEuclidean('oklab')(hex, '#445566')
      expect(Math.abs(oklabDistance(hexToLinear('#445566'), 1)(hexToLinear(hex)) - distance)).toBeLessThan(2e-5)
    }
  })

  test('near colour takes what is within the tolerance; without lightness only hue and chroma count', () => {
    const hexes = ['#7a6f5a', '#7d725d', '#2040c0', '#a79b83']
    const source = fieldOf('colour', 4, 4, (x, _, p) => hexToLinear(hexes[x]!)[p]!)
    const mask = (params: Record<string, unknown>) =>
      [...values(run('near-colour', { source }, { centre: '#7a6f5a', softness: 0, ...params }).mask)].slice(0, 4)
    expect(mask({ tolerance: 0.05 })).toEqual([1, 1, 0, 0])
    expect(mask({ tolerance: 0.05, lightness: 0 })).toEqual([1, 1, 0, 1])
  })
})

describe('channels', () => {
  test('split and join give back what came in; sRGB greys are decoded', () => {
    const source = fieldOf('colour', 8, 8, (x, y, p) => (x + 2 * y + 3 * p) / 40)
    const { first, second, third } = run('split', { source })
    const { colour, vector } = run('join', { first: first!, second: second!, third: third! })
    expect(colour!.planes).toEqual(source.planes)
    expect(vector!.planes).toEqual(source.planes.slice(0, 2))
    const grey = constant(0.5)
    // IEC 61966-2-1: 0.5 decodes to 0.21404.
    expect(values(run('join', { first: grey, second: grey, third: grey }, { encoding: 'srgb' }).colour)[0]).toBeCloseTo(
      0.2140411,
      6,
    )
  })

  test('to grey: Rec. 709 luminance of the primaries, the slope of a normal', () => {
    const primaries = fieldOf('colour', 4, 4, (x, _, p) => (x === p ? 1 : 0))
    const at = (method: string) => [...values(run('to-grey', { source: primaries }, { method }).result)].slice(0, 3)
    at('luminance').forEach((v, i) => expect(v).toBeCloseTo([0.2126, 0.7152, 0.0722][i]!, 6))
    expect([at('maximum'), at('minimum'), at('second')]).toEqual([
      [1, 1, 1],
      [0, 0, 0],
      [0, 1, 0],
    ])
    const leaning = fieldOf('normal', 4, 4, (_, __, p) => [0.6, 0, 0.8][p]!)
    expect(values(run('to-grey', { source: leaning }, { method: 'slope' }).result)[0]).toBeCloseTo(0.6, 6)
  })

  test('select lets the chosen one through, and deals IDs out to those that are connected', () => {
    const [a, b, c] = [constant(0.1), constant(0.2), constant(0.3)]
    expect(values(run('select', { first: a, third: c }, { choose: 3 }).result)[0]).toBe(Math.fround(0.3))
    expect(values(run('select', { first: a, third: c }, { choose: 2 }).result)[0]).toBe(Math.fround(0.1))
    const by = createField('count', 8, 8)
    by.counts!.forEach((_, i) => (by.counts![i] = i))
    const dealt = values(run('select', { first: a, second: b, third: c, by }, { shuffle: false }).result)
    expect([...dealt].slice(0, 4)).toEqual([0.1, 0.2, 0.3, 0.1].map(Math.fround))
    const shuffled = values(run('select', { first: a, second: b, third: c, by }).result)
    for (const v of [0.1, 0.2, 0.3]) expect(shuffled.filter((one) => one === Math.fround(v)).length).toBeGreaterThan(10)
  })
})

describe('filters', () => {
  test('edges without width are SciPy’s Sobel magnitude, and read 1 on a step at every width', () => {
    const source = noisyField(40, 30, 6)
    const theirs = python(
      `from scipy import ndimage
out = np.hypot(ndimage.sobel(a, 0, mode="wrap"), ndimage.sobel(a, 1, mode="wrap")) / 8 * 2`,
      source.planes[0]!,
      [30, 40],
    )
    expect(largestDifference(values(run('edges', { source }, { width: 0 }).edges), theirs)).toBeLessThan(1e-5)
    const step = fieldOf('grey', 256, 16, (x) => (x < 128 ? 0 : 1))
    for (const width of [0, 0.02, 0.1]) {
      const { edges, direction } = run('edges', { source: step }, { width })
      // The operator spans two texels, which flattens narrow edges a little.
      expect(Math.abs(Math.max(...values(edges)) - 1)).toBeLessThan(0.04)
      expect([values(direction)[128], values(direction, 1)[128]]).toEqual([1, 0])
    }
  })

  test('sharpen and high pass are SciPy’s blur taken away', () => {
    const source = noisyField(64, 64, 7)
    const blurred = python(
      `from scipy import ndimage\nout = ndimage.gaussian_filter(a, 1.28, mode="wrap", truncate=4.0)`,
      source.planes[0]!,
      [64, 64],
    )
    const plain = values(source)
    const sharp = values(run('sharpen', { source }, { radius: 0.02, amount: 1.5 }).result)
    const high = values(run('high-pass', { source }, { radius: 0.02, strength: 2 }).result)
    expect(
      largestDifference(
        sharp,
        plain.map((v, i) => v + 1.5 * (v - blurred[i]!)),
      ),
    ).toBeLessThan(1e-3)
    expect(
      largestDifference(
        high,
        plain.map((v, i) => 0.5 + 2 * (v - blurred[i]!)),
      ),
    ).toBeLessThan(1e-3)
    const laplacian = python(
      `from scipy import ndimage\nout = a - 0.5 * ndimage.laplace(a, mode="wrap") / 4`,
      plain,
      [64, 64],
    )
    expect(
      largestDifference(values(run('sharpen', { source }, { method: 'neighbours', amount: 0.5 }).result), laplacian),
    ).toBeLessThan(1e-5)
  })

  test('distances run from the true edge of a soft disc, inside and out, also across the border', () => {
    const n = 128
    const away = (x: number, y: number) => {
      const wrapped = (t: number) => Math.abs(t - Math.round(t))
      return Math.hypot(wrapped((x + 0.5) / n - 0.1), wrapped((y + 0.5) / n - 0.95))
    }
    const disc = fieldOf('grey', n, n, (x, y) => Math.min(1, Math.max(0, 0.5 + (0.2 - away(x, y)) * n)))
    const { inside, outside, halo, depth } = run('distance', { source: disc }, { range: 0.1 })
    let worst = 0
    for (let y = 0; y < n; y++)
      for (let x = 0; x < n; x++) {
        const d = away(x, y) - 0.2
        worst = Math.max(
          worst,
          Math.abs(values(outside)[y * n + x]! - Math.max(0, d)),
          Math.abs(values(inside)[y * n + x]! - Math.max(0, -d)),
        )
      }
    // Half a texel or so, where neighbours along the edge are nearer than it.
    expect(worst * n).toBeLessThan(0.6)
    expect([Math.max(...values(halo)), Math.max(...values(depth))]).toEqual([1, 1])
  })

  test('bevel: a round rim is a quarter circle over the distance', () => {
    const n = 256
    const bar = fieldOf('grey', n, 8, (x) => (x >= 64 && x < 192 ? 1 : 0))
    const height = values(run('bevel', { source: bar }, { width: 0.125, profile: 'round' }).height)
    for (const texels of [0, 7, 15, 23, 31]) {
      const t = (texels + 0.5) / 32
      expect(height[64 + texels]).toBeCloseTo(Math.sqrt(1 - (1 - t) ** 2), 5)
    }
    expect([height[63], height[128]]).toEqual([0, 1])
    const outside = values(run('bevel', { source: bar }, { width: 0.125, profile: 'straight', side: 'outside' }).height)
    expect(outside[60]).toBeCloseTo(1 - 3.5 / 32, 5)
  })

  test('regions: values are spread evenly, places run over each box, sizes add up', () => {
    const source = fieldOf('grey', 64, 64, (x, y) => ((x + 4) % 16 < 12 && (y + 4) % 16 < 12 ? 1 : 0))
    const { value, local, size, id } = run('regions', { source })
    const found = [...new Set(values(value))].filter((v) => v > 0).sort()
    expect(found).toHaveLength(16)
    found.forEach((v, i) => expect(v).toBeCloseTo((i + 0.5) / 16, 6))
    expect(Math.max(...id!.counts!)).toBe(16)
    expect(values(size)[0]).toBeCloseTo(144 / 4096, 6)
    // The area that lies across both borders begins at −4: its texel (0, 0) is the fifth of twelve.
    expect([values(local)[0], values(local, 1)[0]].map((v) => v!.toFixed(4))).toEqual([
      (4.5 / 12).toFixed(4),
      (4.5 / 12).toFixed(4),
    ])
  })

  test('height blend: the higher wins; the mask is the cubic of the difference', () => {
    const [first, second] = [constant(0.2), constant(0.8)]
    const at = (low: number, high: number, softness = 0.4) => {
      const out = run(
        'height-blend',
        { first, second, firstHeight: constant(low), secondHeight: constant(high) },
        { softness },
      )
      return [values(out.result)[0]!, values(out.mask)[0]!, values(out.height)[0]!]
    }
    at(0.9, 0.1).forEach((v, i) => expect(v).toBeCloseTo([0.2, 0, 0.9][i]!, 6))
    at(0.1, 0.9).forEach((v, i) => expect(v).toBeCloseTo([0.8, 1, 0.9][i]!, 6))
    expect(at(0.5, 0.6)[1]).toBeCloseTo(3 * 0.75 ** 2 - 2 * 0.75 ** 3, 5)
  })
})

describe('moves', () => {
  test('place by whole repeats and quarter turns is numpy’s tile and rot90', () => {
    const source = noisyField(32, 32, 3)
    const turned = python('out = np.rot90(a)', source.planes[0]!, [32, 32])
    expect(largestDifference(values(run('place', { source }, { angle: 0.25 }).result), turned)).toBeLessThan(1e-6)
    const moved = python('out = np.roll(a, (4, 8), (0, 1))', source.planes[0]!, [32, 32])
    expect(largestDifference(values(run('place', { source }, { offset: [0.25, 0.125] }).result), moved)).toBeLessThan(
      1e-6,
    )
    const twice = values(run('place', { source }, { scale: 0.5 }).result)
    for (let i = 0; i < 16; i++) expect(twice[i]).toBeCloseTo(twice[i + 16]!, 6)
  })

  test('place says what it snapped to', () => {
    const says = (params: Record<string, unknown>, metres: [number, number] = [1, 1]) => {
      const node = registry.get('place')!
      return node.says!(checkParameters(node, params) as never, { metres })[0]
    }
    expect(says({ angle: 0.11, scale: 0.7 })).toBe('Goes 1.414 times into the tile, turned by 0.125 turns.')
    expect(says({ scale: 5 })).toBe('Goes 1 times into the tile, turned by 0 turns.')
    expect(says({ angle: 0.3, scale: 0.4 }, [1, 2])).toBe('Goes 3 times into the tile, turned by 0.5 turns.')
  })

  test('smear along a line is SciPy’s uniform filter; the maximum its maximum filter', () => {
    const source = noisyField(64, 16, 2)
    for (const [combine, filter] of [
      ['average', 'uniform_filter1d(a, 9, axis=1, mode="wrap")'],
      ['maximum', 'maximum_filter1d(a, 9, axis=1, mode="wrap")'],
      ['minimum', 'minimum_filter1d(a, 9, axis=1, mode="wrap")'],
    ]) {
      const theirs = python(`from scipy import ndimage\nout = ndimage.${filter}`, source.planes[0]!, [16, 64])
      expect(
        largestDifference(values(run('smear', { source }, { length: 8 / 64, combine }).result), theirs),
      ).toBeLessThan(1e-5)
    }
  })

  test('smear along slopes draws downhill: below a wet spot on a slope its brightness runs', () => {
    const n = 64
    const hill = fieldOf('grey', n, n, (_, y) => 1 - Math.abs(y - 32) / 32)
    const spot = fieldOf('grey', n, n, (x, y) => (Math.hypot(x - 20, y - 46) < 3 ? 1 : 0))
    const out = values(
      run('smear', { source: spot, driver: hill }, { along: 'slope', length: 0.2, combine: 'maximum' }).result,
    )
    // A place looks downhill: those above the spot on the lower half of the picture see it, those below do not.
    expect(out[38 * n + 20]).toBe(1)
    expect(out[54 * n + 20]).toBe(0)
  })
})

describe('surfaces', () => {
  test('curvature of a ball: 1/R, bright on a bump, dark in a hollow, from height and from normals', () => {
    const n = 256
    const ball = 0.3
    // Unit height 1 to 0.5 over heightMetres 1: the cap of a ball of radius 0.3 tiles, metres 1.
    const cap = fieldOf('grey', n, n, (x, y) => {
      const r = Math.hypot((x + 0.5) / n - 0.5, (y + 0.5) / n - 0.5)
      return r < 0.25 ? Math.sqrt(ball * ball - r * r) : Math.sqrt(ball * ball - 0.0625)
    })
    const at = (inputs: Record<string, Field>, strength = 1) =>
      values(run('curvature', inputs, { radius: 0.02, strength }, { heightMetres: 1 }).curvature)[128 * n + 128]!
    const expected = 0.5 + (0.5 * 0.02) / ball
    expect(Math.abs(at({ height: cap }) - expected)).toBeLessThan(0.001)
    const normal = run('height-to-normal', { height: cap }, {}, { heightMetres: 1 }).normal!
    expect(Math.abs(at({ normal }) - expected)).toBeLessThan(0.001)
    const hollow = fieldOf('grey', n, n, (x, y) => -cap.planes[0]![y * n + x]!)
    expect(Math.abs(at({ height: hollow }) - (1 - expected))).toBeLessThan(0.001)
    expect(at({ height: constant(0.3, n) })).toBe(0.5)
  })

  test('adjust normal: strength scales slopes, the turn turns them, green is flipped', () => {
    const leaning = fieldOf('normal', 4, 4, (_, __, p) => [0.6, 0, 0.8][p]!)
    const out = (params: Record<string, unknown>) =>
      run('adjust-normal', { source: leaning }, params).normal!.planes.map((plane) => plane[0]!)
    const near = (a: number[], b: number[]) => a.forEach((v, i) => expect(v).toBeCloseTo(b[i]!, 6))
    const l = Math.hypot(1.5, 1)
    near(out({ strength: 2 }), [1.5 / l, 0, 1 / l])
    near(out({ turn: 0.25 }), [0, 0.6, 0.8])
    near(out({ turn: 0.25, flipGreen: true }), [0, 0.6, 0.8])
    near(out({ strength: 0 }), [0, 0, 1])
  })
})

describe('stencil', () => {
  /** A white disc on transparent black. */
  const picture = (): RasterImage => {
    const n = 64
    const all = new Float32Array(n * n * 4)
    for (let y = 0; y < n; y++)
      for (let x = 0; x < n; x++) {
        const alpha = Math.min(1, Math.max(0, 20.5 - Math.hypot(x - 31.5, y - 31.5)))
        all.set(alpha > 0 ? [1, 1, 1, alpha] : [0, 0, 0, 0], (y * n + x) * 4)
      }
    return { width: n, height: n, channels: 4, values: all, bits: 8, float: false }
  }
  const images = new Map([
    ['disc|srgb|straight', makePyramid(picture(), { image: 'disc', encoded: true, premultiplied: false })],
  ])

  test.each([0.05, 0.31, 0.9])('at size %s no fringe shows: every texel lies between the ground and white', (size) => {
    const ground = [0.8, 0.1, 0.02]
    const under = fieldOf('colour', 96, 96, (_, __, p) => ground[p]!)
    const { result, alpha, colour } = run(
      'stencil',
      { under },
      { image: 'disc', size, angle: 0.07, centre: [0.98, 0.4] },
      { images },
    )
    let between = 0
    for (let i = 0; i < 96 * 96; i++) {
      const a = values(alpha)[i]!
      if (a > 0.02 && a < 0.98) between++
      for (let p = 0; p < 3; p++) {
        expect(Math.abs(values(result, p)[i]! - (ground[p]! + (1 - ground[p]!) * a))).toBeLessThan(1e-5)
        if (a > 0) expect(values(colour, p)[i]).toBeGreaterThan(0.999)
      }
    }
    expect(between).toBeGreaterThan(8)
    // The covered share is that of the disc: π · 20² of 64².
    const share = values(alpha).reduce((sum, a) => sum + a, 0) / 96 ** 2
    expect(Math.abs(share / (size * size * ((Math.PI * 400) / 4096)) - 1)).toBeLessThan(0.04)
  })

  test('over one value everywhere it still shows in its place only', async () => {
    const node = registry.get('stencil')!
    const document = documentOf({ nodes: { sign: { type: 'stencil', params: node.example.params } } })
    const { fields } = await evaluateOutputs(document, ['sign.alpha'], 64, { node })
    expect(new Set(values(fields.get('sign.alpha'))).size).toBeGreaterThan(10)
  })

  test('without an image what lies under it stays', () => {
    const under = fieldOf('colour', 8, 8, (x, y, p) => (x + y + p) / 20)
    expect(run('stencil', { under }).result!.planes).toEqual(under.planes)
  })
})

describe('shapes and patterns', () => {
  /** Share of the tile that is covered. */
  const share = (field: Field | undefined): number =>
    values(field).reduce((sum, v) => sum + v, 0) / values(field).length

  test.each([
    ['disc', { size: [0.8, 0.8] }, Math.PI * 0.16],
    ['box', { size: [0.6, 0.3] }, 0.18],
    ['box', { size: [0.6, 0.6], rounding: 0.1 }, 0.36 - (4 - Math.PI) * 0.01],
    ['polygon', { size: [0.8, 0.8], sides: 6 }, ((3 * Math.sqrt(3)) / 2) * 0.16],
    ['polygon', { size: [0.8, 0.8], sides: 3, angle: 0.2 }, ((3 * Math.sqrt(3)) / 4) * 0.16],
    ['star', { size: [0.8, 0.8], sides: 5, inner: 0.5 }, 5 * 0.4 * 0.2 * Math.sin(Math.PI / 5)],
    ['ring', { size: [0.8, 0.8], inner: 0.25 }, Math.PI * (0.16 - 0.09)],
    ['capsule', { size: [0.8, 0.2] }, 0.6 * 0.2 + Math.PI * 0.01],
    ['cross', { size: [0.8, 0.8], inner: 0.25 }, 0.8 * 0.2 * 2 - 0.04],
    ['disc', { size: [0.5, 0.5], repeat: [3, 2] }, Math.PI * (0.25 / 3) ** 2 * 6],
  ])('%s %j covers what geometry says', (shape, params, expected) => {
    expect(Math.abs(share(run('shape', {}, { shape, ...params }, { width: 256 }).grey) - expected)).toBeLessThan(0.001)
  })

  test('stripes cover their share at any slant, and say their pitch', () => {
    for (const counts of [
      [5, 0],
      [0, 7],
      [3, -4],
      [-6, 2],
    ])
      expect(Math.abs(share(run('stripes', {}, { counts, share: 0.3 }, { width: 128 }).grey) - 0.3)).toBeLessThan(0.01)
    const node = registry.get('stripes')!
    expect(node.says!(checkParameters(node, { counts: [3, 4] }) as never, { metres: [2, 2] })).toEqual([
      'One every 400.0 mm.',
    ])
  })

  test('weaves show as much warp as their trade definition: half, half, four fifths', () => {
    for (const [weave, expected] of [
      ['plain', 1 / 2],
      ['twill', 1 / 2],
      ['satin', 4 / 5],
    ] as const)
      expect(
        Math.abs(share(run('weave', {}, { weave, threads: [10, 10], gap: 0 }, { width: 240 }).warp) - expected),
      ).toBeLessThan(0.08)
    const node = registry.get('weave')!
    expect(
      node.says!(checkParameters(node, { weave: 'satin', threads: [11, 18] }) as never, { metres: [1, 1] }),
    ).toEqual(['Woven of 10 warp and 20 weft threads.'])
  })

  test('spots: as many as the density says, of the sizes asked for', () => {
    const { id, grey } = run(
      'spots',
      {},
      { cells: [16, 16], density: 0.5, size: [0.4, 0.4], softness: 0 },
      { width: 512 },
    )
    const count = new Set(id!.counts!).size - 1
    // 256 places at ½: a standard deviation is 8.
    expect(Math.abs(count - 128)).toBeLessThan(32)
    expect(Math.abs(share(grey) / ((count * Math.PI * 0.04) / 256) - 1)).toBeLessThan(0.1)
  })

  test('fibres: the directions lie within the spread, and thinner than a texel covers as much less', () => {
    const { direction, grey } = run('fibres', {}, { count: 80, angle: 0.125, spread: 0.1, bend: 0 }, { width: 128 })
    const [u, v] = [values(direction), values(direction, 1)]
    values(grey).forEach((level, i) => {
      if (level === 0) return
      const turns = Math.atan2(-v[i]!, u[i]!) / (2 * Math.PI)
      expect(Math.abs(turns - 0.125)).toBeLessThan(0.0501)
    })
    const amount = (width: number, at: number) =>
      share(
        run('fibres', {}, { count: 3, width: [width, width], taper: 0, softness: 0, bend: 0, vary: 0 }, { width: at })
          .grey,
      )
    expect(Math.abs(amount(0.002, 64) / amount(0.002, 1024) - 1)).toBeLessThan(0.1)
  })
})
