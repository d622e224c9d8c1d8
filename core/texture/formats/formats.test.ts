import fc from 'fast-check'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { largestDifference } from '../../testing/fields'
import { readWithOiio } from '../../testing/oiio'
import { python } from '../../testing/python'
import { hash32 } from '../../random'
import { startExr } from './exr'
import { toHalf } from '../bytes/half'
import { startNpy } from '../bytes/npy'
import { startPng } from './png'
import { quantise } from '../bytes/quantise'
import type { RowWriter, ByteWriter } from '../bytes/byte-writer'
import { memoryWriter } from '../bytes/byte-writer'
import { startTga } from './tga'
import { startTiff } from './tiff'

const [W, H] = [37, 29] // no multiples of anything, more than one EXR block

/** Writes in two uneven pieces, as bands come. */
function written<T extends Uint8Array | Uint16Array | Float32Array>(
  start: (output: ByteWriter) => RowWriter<T>,
  values: T,
  channels: number,
): Uint8Array {
  const sink = memoryWriter()
  const writer = start(sink)
  const cut = 11 * W * channels
  writer.rows(values.subarray(0, cut) as T)
  writer.rows(values.subarray(cut) as T)
  writer.end()
  return sink.bytes()
}

const planesOf = (values: ArrayLike<number>, channels: number, max = 1): Float32Array[] =>
  Array.from({ length: channels }, (_, c) =>
    Float32Array.from({ length: values.length / channels }, (_, i) => values[i * channels + c]! / max),
  )

/** Runs, slopes and noise, so that every filter and every run length comes up. */
const sample = (i: number, max: number): number => {
  const texel = Math.floor(i / 3)
  const kind = Math.floor(texel / W) % 3
  return kind === 0 ? (i % 3) * 50 : kind === 1 ? (i * 5) % (max + 1) : hash32(i) % (max + 1)
}

describe('files read back by OpenImageIO have equal values', () => {
  const same = (file: Uint8Array, extension: string, expected: Float32Array[], word: string, bound: number) => {
    const { info, planes } = readWithOiio(file, extension)
    expect(info).toContain(`${W} x   ${H}`)
    expect(info).toContain(word)
    expect(planes).toHaveLength(expected.length)
    planes.forEach((plane, c) => expect(largestDifference(plane, expected[c]!)).toBeLessThanOrEqual(bound))
  }

  test.each([1, 2, 3, 4].flatMap((channels) => [8, 16].map((bits) => [channels, bits] as const)))(
    'PNG, %s channels, %s bits',
    (channels, bits) => {
      const max = bits === 8 ? 255 : 65535
      const all = Array.from({ length: W * H * channels }, (_, i) => sample(i, max))
      const values = bits === 8 ? Uint8Array.from(all) : Uint16Array.from(all)
      const file = written(
        (sink) => startPng({ width: W, height: H, channels, bits: bits as 8 | 16, srgb: false } as never, sink),
        values,
        channels,
      )
      same(file, 'png', planesOf(values, channels, max), bits === 8 ? 'uint8 png' : 'uint16 png', 1e-7)
    },
  )

  test.each([3, 4] as const)('TGA, %s channels', (channels) => {
    const values = Uint8Array.from({ length: W * H * channels }, (_, i) => sample(i, 255))
    same(
      written((sink) => startTga({ width: W, height: H, channels }, sink), values, channels),
      'tga',
      planesOf(values, channels, 255),
      'uint8 targa',
      1e-7,
    )
  })

  const floats = (channels: number): Float32Array => {
    const values = Float32Array.from({ length: W * H * channels }, (_, i) => Math.sin(i) * 10 ** ((i % 9) - 5))
    values.set([0, 1, -1, 65504, 1e-7, 6e-8, 0.333333])
    return values
  }
  test.each([
    ['half', 1],
    ['half', 3],
    ['half', 4],
    ['float', 1],
    ['float', 3],
  ] as const)('EXR, %s, %s channels', (pixel, channels) => {
    const values = floats(channels)
    const names = channels === 1 ? ['Y'] : ['R', 'G', 'B', 'A'].slice(0, channels)
    const file = written((sink) => startExr({ width: W, height: H, channels: names, pixel }, sink), values, channels)
    const expected = pixel === 'half' ? python('out = a.astype("f2")', values, [values.length]) : values
    same(file, 'exr', planesOf(expected, channels), `${pixel} openexr`, 0)
  })

  test.each(([1, 3, 4] as const).flatMap((channels) => ([8, 16] as const).map((bits) => [channels, bits] as const)))(
    'TIFF, %s channels, %s bits, in more than one strip',
    (channels, bits) => {
      const maxValue = bits === 8 ? 255 : 65535
      const [width, height] = [2000, 21]
      const all = Array.from({ length: width * height * channels }, (_, i) => sample(i, maxValue))
      const values = bits === 8 ? Uint8Array.from(all) : Uint16Array.from(all)
      const to = memoryWriter()
      const writer = startTiff({ width, height, channels, bits, float: false }, to)
      writer.rows(values)
      writer.end()
      const { info, planes } = readWithOiio(to.bytes(), 'tif')
      expect(info).toContain(bits === 8 ? 'uint8 tiff' : 'uint16 tiff')
      planesOf(values, channels, maxValue).forEach((plane, c) =>
        expect(largestDifference(planes[c]!, plane)).toBeLessThanOrEqual(1e-7),
      )
    },
  )

  test('a TIFF beyond 4 GB is refused before anything is written', () => {
    const to = memoryWriter()
    const shape = { width: 16384, height: 16384, channels: 4, bits: 32, float: true } as const
    expect(() => startTiff(shape, to)).toThrow(/over 4 GB/)
    expect(to.bytes()).toHaveLength(0)
  })

  test.each([1, 2, 3] as const)('float TIFF, %s channels', (channels) => {
    const values = floats(channels)
    same(
      written((sink) => startTiff({ width: W, height: H, channels, bits: 32, float: true }, sink), values, channels),
      'tif',
      planesOf(values, channels),
      'float tiff',
      0,
    )
  })
})

test.each([1, 3])('NPY of %s channels is loaded by NumPy with shape and values', (channels) => {
  const values = Float32Array.from({ length: W * H * channels }, (_, i) => Math.sin(i) * 1e3)
  const folder = mkdtempSync(join(tmpdir(), 'npy-'))
  try {
    const path = join(folder, 'a.npy')
    writeFileSync(
      path,
      written((sink) => startNpy({ width: W, height: H, channels }, sink), values, channels),
    )
    const loaded = python(
      `b = np.load(${JSON.stringify(path)}); assert b.shape == (${channels === 1 ? `${H}, ${W}` : `${H}, ${W}, ${channels}`}); out = b`,
      new Float32Array(1),
      [1],
    )
    expect(loaded).toEqual(values)
  } finally {
    rmSync(folder, { recursive: true })
  }
})

test('a PNG says that it is sRGB-encoded only where asked, and a strict reader accepts it', async () => {
  for (const srgb of [true, false]) {
    const values = new Uint8Array(W * H * 3).map((_, i) => sample(i, 255))
    const file = Buffer.from(
      written((sink) => startPng({ width: W, height: H, channels: 3, bits: 8, srgb }, sink), values, 3),
    )
    expect(file.includes('sRGB')).toBe(srgb)
    expect((await sharp(file, { failOn: 'warning' }).raw().toBuffer()).equals(Buffer.from(values))).toBe(true)
  }
})

test('missing rows are a fault that is noticed', () => {
  for (const start of [
    (sink: ByteWriter) => startPng({ width: 2, height: 2, channels: 1, bits: 8, srgb: false }, sink),
    (sink: ByteWriter) => startTga({ width: 2, height: 2, channels: 3 }, sink),
    (sink: ByteWriter) => startExr({ width: 2, height: 2, channels: ['Y'], pixel: 'half' }, sink),
    (sink: ByteWriter) => startNpy({ width: 2, height: 2, channels: 1 }, sink),
    (sink: ByteWriter) => startTiff({ width: 2, height: 2, channels: 1, bits: 32, float: true }, sink),
  ])
    expect(() => start(memoryWriter()).end()).toThrow(RangeError)
})

describe('half floats', () => {
  test('every finite binary16 value turns back to its own bits (NumPy gives the values)', () => {
    const codes = Float32Array.from({ length: 63488 }, (_, i) => (i < 31744 ? i : i + 1024)) // finite: exponent below 31
    const values = python('out = a.astype("u2").view("f2")', codes, [codes.length])
    values.forEach((v, i) => {
      if (toHalf(v) !== codes[i]) throw new Error(`${v}: ${toHalf(v)} for ${codes[i]}`)
    })
  })

  test('rounds to nearest even as NumPy does; beyond the range the largest half', () => {
    const inputs = Float32Array.from({ length: 20000 }, (_, i) => (hash32(i) / 2 ** 31 - 1) * 2 ** ((i % 42) - 26))
    const theirs = python('out = a.astype("f4").astype("f2").view("u2")', inputs, [inputs.length])
    expect(Array.from(inputs, toHalf)).toEqual(Array.from(theirs))
    expect([toHalf(1e9), toHalf(-1e9), toHalf(NaN)]).toEqual([0x7bff, 0xfbff, 0])
  })
})

describe('whole steps', () => {
  const shape = { channels: 1, width: 64, top: 0 }
  test('rounds to nearest and holds the ends', () => {
    const plain = (bits: 8 | 16, values: number[]) => [
      ...quantise(Float32Array.from(values), { ...shape, bits, dither: false }),
    ]
    expect(plain(8, [-1, 0, 0.5, 1, 2, 100.4 / 255, 100.6 / 255])).toEqual([0, 0, 128, 255, 255, 100, 101])
    expect(plain(16, [-1, 0, 1, 2, 100.4 / 65535])).toEqual([0, 0, 65535, 65535, 100])
  })

  test('dithering keeps the mean of every 8 × 8 block within 1/64 step, and never strays by a step', () => {
    for (let level = 100; level <= 101; level += 0.07) {
      const codes = quantise(new Float32Array(64 * 64).fill(level / 255), { ...shape, bits: 8, dither: true })
      const mean = Array.from(codes).reduce((a, b) => a + b, 0) / codes.length
      expect(Math.abs(mean - level)).toBeLessThan(1 / 64)
      expect(codes.every((v) => Math.abs(v - level) <= 1)).toBe(true)
    }
  })

  test('bands of any height give what the whole gives', () => {
    const values = Float32Array.from({ length: 64 * 24 }, (_, i) => i / (64 * 24))
    const whole = quantise(values, { ...shape, bits: 8, dither: true })
    const lower = quantise(values.subarray(64 * 5), { ...shape, top: 5, bits: 8, dither: true })
    expect(lower).toEqual(whole.slice(64 * 5))
  })
})

test('PNG and TGA of any size and content come back from sharp and oiiotool', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 300 }),
      fc.integer({ min: 1, max: 5 }),
      fc.infiniteStream(fc.constantFrom(0, 0, 0, 7, 255)),
      async (width, height, stream) => {
        const values = Uint8Array.from({ length: width * height * 3 }, () => stream.next().value as number)
        const sink = memoryWriter()
        const writer = startPng({ width, height, channels: 3, bits: 8, srgb: true }, sink)
        writer.rows(values)
        writer.end()
        expect(Buffer.from(values).equals(await sharp(sink.bytes()).raw().toBuffer())).toBe(true)
      },
    ),
    { seed: 11, numRuns: 200 },
  )
  const tga = memoryWriter()
  const one = startTga({ width: 1, height: 1, channels: 4 }, tga)
  one.rows(Uint8Array.of(1, 2, 3, 4))
  one.end()
  expect(readWithOiio(tga.bytes(), 'tga').planes.map((plane) => Math.round(plane[0]! * 255))).toEqual([1, 2, 3, 4])
})
