import { encodeSrgb, decodeSrgb } from '../colour/srgb'
import { histogramOf, spreadOf } from './histogram'
import {
  displayBytes,
  encodedByte,
  fillHalves,
  fillRgba,
  halvesPicture,
  reduceField,
  rgbaBytes,
  rgbaPicture,
  valuesAt,
  weightedMean,
} from './display'
import { withoutSimd } from '../kernels/simd'
import { fromHalf } from '../texture/bytes/half'
import { createField } from '../field/field'

const ramp = (width: number, height: number) => {
  const field = createField('grey', width, height)
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) field.planes[0]![y * width + x] = x / width
  return field
}

describe('bytes for looking at', () => {
  it('gives every sRGB byte back from its linear value (IEC 61966-2-1)', () => {
    for (let byte = 0; byte < 256; byte++) expect(encodedByte(decodeSrgb(byte / 255))).toBe(byte)
  })

  it('is never more than one step from rounding the exact curve', () => {
    for (let i = 0; i <= 20000; i++) {
      const linear = i / 20000
      expect(Math.abs(encodedByte(linear) - Math.round(encodeSrgb(linear) * 255))).toBeLessThanOrEqual(1)
    }
  })

  it('holds values outside the range, and NaN, at the ends', () => {
    for (const [v, byte] of [
      [-3, 0],
      [7, 255],
      [Number.NaN, 0],
    ] as const)
      expect(encodedByte(v)).toBe(byte)
  })

  it('shows a straight normal as 128 128 255, flips rows for textures, and gives a uniform field one texel', () => {
    const normal = createField('normal', 2, 2)
    normal.planes[2]!.fill(1)
    expect([...displayBytes(normal).pixels.slice(0, 4)]).toEqual([128, 128, 255, 255])
    const rows = createField('grey', 1, 2)
    rows.planes[0]![1] = 1
    expect(displayBytes(rows).pixels[0]).toBe(0)
    expect(displayBytes(rows, true).pixels[0]).toBe(255)
    const uniform = { ...createField('grey', 8, 1), height: 8, rows: 8, stride: 0 }
    expect(displayBytes(uniform)).toMatchObject({ width: 1, height: 1 })
  })

  it('tells counts apart', () => {
    const counts = createField('id', 64, 1)
    counts.ids!.forEach((_, i) => (counts.ids![i] = i))
    const { pixels } = displayBytes(counts)
    const colours = new Set(Array.from({ length: 64 }, (_, i) => pixels.slice(i * 4, i * 4 + 3).join()))
    expect(colours.size).toBe(64)
  })
})

describe('a small copy', () => {
  it('is the mean over boxes', () => {
    const small = reduceField(ramp(64, 32), 16)
    expect([small.width, small.height]).toEqual([16, 8])
    // Mean of 4 neighbouring columns x/64 … (x+3)/64.
    for (let x = 0; x < 16; x++) expect(small.planes[0]![x]).toBeCloseTo((4 * x + 1.5) / 64, 6)
  })

  it('keeps the mean of the whole', () => {
    const field = createField('grey', 48, 48)
    field.planes[0]!.forEach((_, i) => (field.planes[0]![i] = ((i * 7919) % 1000) / 1000))
    expect(histogramOf(reduceField(field, 16)).planes[0]!.mean).toBeCloseTo(histogramOf(field).planes[0]!.mean, 5)
  })
})

describe('spread', () => {
  it('of an even ramp is as wide as that of the uniform distribution: 1/√12 (handbook)', () => {
    const { planes, covered } = spreadOf(ramp(1024, 4), null, 16)
    expect(planes[0]!.deviation).toBeCloseTo(1 / Math.sqrt(12), 3)
    expect(planes[0]).toMatchObject(histogramOf(ramp(1024, 4), 16).planes[0]!)
    expect(covered).toBe(1)
  })

  it('within a mask is of what it covers, as far as it does', () => {
    const field = createField('grey', 4, 2)
    field.planes[0]!.set([0, 0.25, 0.5, 1, 0, 0.25, 0.5, 1])
    const mask = createField('grey', 4, 2)
    mask.planes[0]!.set([0, 1, 0.5, 0, 0, 0, 0, -3])
    const { planes, covered } = spreadOf(field, mask, 4)
    expect(covered).toBeCloseTo(1.5 / 8, 12)
    const mean = (0.25 + 0.5 * 0.5) / 1.5
    expect(planes[0]!.mean).toBeCloseTo(mean, 12)
    expect(planes[0]!.deviation).toBeCloseTo(Math.sqrt(((0.25 - mean) ** 2 + 0.5 * (0.5 - mean) ** 2) / 1.5), 12)
    expect(planes[0]).toMatchObject({ min: 0.25, max: 0.5 })
    expect(planes[0]!.bins.map((n) => Math.round(n * 1e6))).toEqual([0, 666667, 333333, 0])
    // On a part with the first six texels: those about which it is asked are as before, of fewer.
    const own = spreadOf(field, mask, 4, new Int32Array([0, 1, 2, 3, 4, 5, 5, 5]))
    expect(own).toEqual({ ...spreadOf(field, mask, 4), covered: 1.5 / 6 })
    const even = { ...field, stride: 0, planes: [new Float32Array(4).fill(0.3)] }
    expect(spreadOf(even, mask, 4, new Int32Array([0, 1, 2, 3, 4, 5, 5, 5])).covered).toBeCloseTo(1.5 / 6, 12)
    expect(spreadOf(field, null, 4, new Int32Array([1, 1, 1, 1, 1, 1, 1, 1])).planes[0]).toMatchObject({
      bins: [0, 1, 0, 0],
      mean: 0.25,
      deviation: 0,
    })
    mask.planes[0]!.fill(0)
    expect(spreadOf(field, mask).covered).toBe(0)
  })
})

describe('histogram', () => {
  it('of an even ramp is even, with its mean, least and greatest', () => {
    const { planes } = histogramOf(ramp(256, 4), 16)
    for (const ratio of planes[0]!.bins) expect(ratio).toBeCloseTo(1 / 16, 10)
    expect(planes[0]!.mean).toBeCloseTo(255 / 512, 6)
    expect([planes[0]!.min, planes[0]!.max]).toEqual([0, 255 / 256])
  })

  it('puts what lies outside into the end bins', () => {
    const field = createField('grey', 2, 1)
    field.planes[0]!.set([-4, 9])
    const [plane] = histogramOf(field, 8).planes
    expect([plane!.bins[0], plane!.bins[7], plane!.min, plane!.max]).toEqual([0.5, 0.5, -4, 9])
  })
})

describe('values under a pointer', () => {
  it('are those of the texel that holds the place, wrapping', () => {
    const field = ramp(4, 4)
    expect(valuesAt(field, 0.3, 0.9)).toEqual([0.25])
    expect(valuesAt(field, 1.3, -0.1)).toEqual([0.25])
    expect(valuesAt(field, 0.9999999, 0)).toEqual([0.75])
  })
})

describe('mean colour under a mask', () => {
  it('counts each texel by its share', () => {
    const colour = createField('colour', 2, 1)
    colour.planes[0]!.set([1, 0])
    const mask = createField('grey', 2, 1)
    mask.planes[0]!.set([0.25, 0.75])
    expect(weightedMean(colour, mask)).toEqual([0.25, 0, 0])
    expect(weightedMean(colour, null)).toEqual([0.5, 0, 0])
    // On a part of which the second texel is no own one.
    expect(weightedMean(colour, mask, new Int32Array([0, 0]))).toEqual([1, 0, 0])
    mask.planes[0]!.fill(0)
    expect(weightedMean(colour, mask)).toBeNull()
  })
})

describe('pictures by SIMD', () => {
  // Every kind of value: the range, beyond it, tiny ones, no numbers, and both sides of each half step.
  const awkward = Float32Array.from({ length: 64 * 33 }, (_, i) => {
    if (i < 600) return Math.fround(((i >> 1) + 0.5 + (i % 2 ? 1e-5 : -1e-5)) / 255)
    if (i < 700) return (i - 650) * 1e9
    if (i < 710) return [Number.NaN, Infinity, -Infinity, -0, 1e-40, -1e-40, 65504, 65519.996, 65520, 6e-8][i - 700]!
    // Between two halves, the lower of which is even or odd.
    if (i < 800) return new Float32Array(Uint32Array.of(0x3f801000 + (i << 13)).buffer)[0]!
    return Math.fround(Math.sin(i * 12.9898) * 2 ** ((i % 60) - 40))
  })
  const field = createField('colour', 64, 33)
  field.planes.forEach((plane, p) => plane.set(awkward.subarray(p)))
  const grey = createField('grey', 64, 33)
  grey.planes[0]!.set(awkward)
  const one = { ...createField('grey', 64, 1), height: 33, stride: 0 }
  one.planes[0]!.fill(0.3)
  const kinds = ['value', 'signed', 'encoded'] as const

  it.each([true, false])('have the bytes of the definition, flipped %s', (flip) => {
    for (const kind of kinds) {
      const plane = (p: number) => ({ field, plane: field.planes[p]!, kind })
      const alpha = { field: grey, plane: grey.planes[0]!, kind: 'value' } as const
      const uniform = { field: one, plane: one.planes[0]!, kind } as const
      for (const channels of [
        [plane(0), plane(1), plane(2), alpha],
        [255, plane(1), uniform, 7],
      ] as const) {
        const picture = rgbaBytes([...channels], flip)
        expect(picture.pixels).toEqual(withoutSimd(() => rgbaBytes([...channels], flip)).pixels)
        expect(picture).toMatchObject({ width: 64, height: 33 })
      }
    }
  })

  it('are the same where rows come a few at a time', () => {
    const channels = [255, { field, plane: field.planes[1]!, kind: 'value' }, 3, 7] as const
    const picture = rgbaPicture([field])
    const halves = halvesPicture(grey)
    const [whole, wholeHalves] = [rgbaBytes([...channels], true), halvesPicture(grey)]
    fillHalves(wholeHalves, grey, true, { from: 0, to: 33 })
    // The last band goes beyond the end, as bands of rows may.
    for (let from = 0; from < 33; from += 16) {
      fillRgba(picture, channels, true, { from, to: from + 16 })
      fillHalves(halves, grey, true, { from, to: from + 16 })
    }
    expect(picture.pixels).toEqual(whole.pixels)
    expect(halves.pixels).toEqual(wholeHalves.pixels)
  })

  it('are counted and made small as the definitions do', () => {
    for (const one of [field, grey]) {
      for (const bins of [1, 64]) expect(histogramOf(one, bins)).toEqual(withoutSimd(() => histogramOf(one, bins)))
      const small = reduceField(one, 16)
      expect(small.planes).toEqual(withoutSimd(() => reduceField(one, 16)).planes)
      expect(small.width).toBe(16)
    }
  })

  it('have the half floats of the definition', () => {
    const halves = (): Uint16Array => {
      const picture = halvesPicture(grey)
      fillHalves(picture, grey, true, { from: 0, to: 33 })
      return picture.pixels
    }
    const pixels = halves()
    expect(pixels).toEqual(withoutSimd(halves))
    // The last row comes first.
    expect(fromHalf(pixels[1]!)).toBeCloseTo(Math.min(65504, Math.max(-65504, awkward[64 * 32 + 1]!)), 2)
  })
})
