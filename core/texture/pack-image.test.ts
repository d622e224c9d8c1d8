import { channelOutput } from '../document/address'
import { materialHere } from '../testing/material-here'
import sharp from 'sharp'
import { decodeSrgb, encodeSrgb } from '../colour/srgb'
import type { Field } from '../field/field'
import type { RasterImage } from '../field/pyramid'
import type { EncodeJpeg } from './jpeg-codec'
import { CHANNELS } from '../document/channels'
import { deliverHere } from '../testing/deliver-here'
import { documentOf } from '../testing/examples'
import { fieldOf, largestDifference, noisyField } from '../testing/fields'
import { readWithOiio } from '../testing/oiio'
import { python } from '../testing/python'
import { packedImage } from './pack-image'
import { channelHistograms } from '../preview/channel-histograms'
import { mipOf } from './mips'
import type { FilePlan, Packing } from './packing'
import { definePacking, fileNames, filesOf } from './packing'
import { unpack } from './unpack'

const channels = new Map(CHANNELS.map((channel) => [channel.id, channel]))
const document = documentOf({
  name: 'Small',
  heightMetres: 0.04,
  nodes: {
    n: { type: 'noise', params: { cells: [3, 3] } },
    c: { type: 'noise', params: { cells: [5, 5], seed: 2 } },
    ramp: {
      type: 'gradient-remap',
      params: {
        stops: [
          { at: 0, colour: '#203040' },
          { at: 1, colour: '#e0c090' },
        ],
      },
      inputs: { source: 'c.grey' },
    },
  },
  layers: [
    {
      kind: 'layer',
      id: 'a',
      name: 'A',
      cells: {
        height: { source: { node: 'n.grey' } },
        colour: { source: { node: 'ramp.result' } },
        roughness: { source: { node: 'c.grey' } },
      },
    },
  ],
})
const encodeJpeg: EncodeJpeg = async (pixels, { width, height, channels: count }) =>
  sharp(pixels, { raw: { width, height, channels: count } })
    .jpeg({ quality: 92, chromaSubsampling: '4:4:4' })
    .toBuffer()
const take = (channel: string, component = 0, invert = false) => ({ channel, component, invert })
const three = (channel: string): FilePlan['slots'] => [take(channel, 0), take(channel, 1), take(channel, 2)]
const one = (file: Partial<FilePlan> & Pick<FilePlan, 'slots'>): Packing =>
  definePacking({
    name: 'p',
    title: '',
    summary: '',
    files: [{ map: 'm', format: 'png', bits: 8, transfer: 'raw', ...file }],
  })

async function fieldsAt(width: number, sharpen = 0): Promise<ReadonlyMap<string, Field>> {
  const outputs = CHANNELS.map(({ id }) => channelOutput(id))
  const { fields } = await materialHere(document).evaluate({ outputs, width, options: { sharpen } })
  return fields
}
const delivered = (packing: Packing, more: Parameters<typeof deliverHere>[2] = {}) =>
  deliverHere(document, packing, { encodeJpeg, ...more })

describe('as delivered', () => {
  test.each<[string, Partial<FilePlan> & Pick<FilePlan, 'slots'>, boolean]>([
    ['8 bits, sRGB', { slots: three('colour'), transfer: 'srgb' }, false],
    ['8 bits, dithered', { slots: [take('roughness')] }, true],
    ['16 bits', { slots: [take('height', 0, true)], bits: 16 }, false],
    ['TGA', { slots: three('normal'), format: 'tga' }, false],
    ['TIFF 8 bits, sRGB', { slots: three('colour'), transfer: 'srgb', format: 'tiff' }, true],
    ['TIFF 16 bits', { slots: [take('height')], format: 'tiff', bits: 16 }, false],
    ['TIFF float', { slots: three('normal'), format: 'tiff', bits: 32 }, false],
    ['EXR half', { slots: three('normal'), format: 'exr', bits: 16 }, false],
    ['EXR float', { slots: [take('height')], format: 'exr', bits: 32 }, false],
  ])('%s: what is shown is what OpenImageIO reads out of the file', async (_, form, dither) => {
    const packing = one(form)
    const { files, record } = await delivered(packing, { dither })
    const [name, bytes] = [...files][0]!
    const { planes } = readWithOiio(bytes, name.split('.').at(-1)!)
    const [file] = filesOf(packing, CHANNELS)
    const shown = await packedImage(file!, name, {
      channels,
      fields: await fieldsAt(64),
      width: 64,
      height: 64,
      heightMetres: document.heightMetres,
      dither,
      host: {},
    })
    const { values, channels: count } = shown.image
    planes.slice(0, count).forEach((plane, c) => {
      expect(
        largestDifference(
          plane,
          plane.map((_v, i) => values[i * count + c]!),
        ),
      ).toBeLessThan(1e-7)
    })
    expect(shown.record.slots).toEqual(record.files[0]!.slots)
  })

  test('normals are never dithered: flat stays flat, while colours beside it are', async () => {
    const files = async (slots: FilePlan['slots'], dither: boolean) =>
      (await delivered(one({ slots, transfer: 'raw', bits: 8 }), { dither })).files.get('Small_m.png')!
    const same = async (slots: FilePlan['slots']) =>
      Buffer.from(await files(slots, true)).equals(Buffer.from(await files(slots, false)))
    expect(await same(three('normal'))).toBe(true)
    expect(await same([take('roughness')])).toBe(false)
  })

  test('a JPEG is written and read by others, near to what went in; it needs an encoder', async () => {
    const packing = one({ slots: three('colour'), transfer: 'srgb', format: 'jpg' })
    const { files } = await delivered(packing)
    const { planes, info } = readWithOiio(files.get('Small_m.jpg')!, 'jpg')
    expect(info).toContain('jpeg')
    const fields = await fieldsAt(64)
    planes.forEach((plane, p) =>
      expect(largestDifference(plane, fields.get('colour')!.planes[p]!.map(encodeSrgb))).toBeLessThan(0.06),
    )
    await expect(deliverHere(document, packing)).rejects.toThrow('JPEG files cannot be written here')
  })

  test('reading back undoes packing, but for half a step', async () => {
    const fields = await fieldsAt(64)
    for (const format of ['png', 'exr'] as const) {
      const bits = 16
      const packing = definePacking({
        name: 'p',
        title: '',
        summary: '',
        files: [
          { map: 'c', format, bits, transfer: 'srgb', slots: three('colour') },
          {
            map: 'n',
            format,
            bits,
            transfer: 'raw',
            slots: [take('normal', 0), take('normal', 1, true), take('normal', 2)],
          },
          { map: 'h', format, bits, transfer: 'raw', slots: [take('height')] },
          { map: 'g', format, bits, transfer: 'raw', slots: [take('roughness', 0, true)] },
        ],
      })
      const whole = { channels, fields, width: 64, height: 64, heightMetres: 0.04, dither: false }
      const images = await Promise.all(
        filesOf(packing, CHANNELS).map((file) => packedImage(file, 'x', { ...whole, host: {} })),
      )
      for (const { channel, field, steps } of unpack(images, channels, 0.04)) {
        expect(steps).toBe(format === 'png' ? 65535 : 0)
        field.planes.forEach((plane, p) =>
          expect(largestDifference(plane, fields.get(channel.id)!.planes[p]!)).toBeLessThan(5e-4),
        )
      }
    }
  })
})

describe('mips', () => {
  const image = (values: number[], width: number, count: 1 | 3, more: Partial<RasterImage> = {}): RasterImage => ({
    width,
    height: values.length / count / width,
    channels: count,
    values: Float32Array.from(values),
    bits: 8,
    float: false,
    ...more,
  })
  const raw = { transfer: 'raw' as const, slots: [{ channel: 'roughness', component: 0, inverted: false }] }
  const colour = {
    transfer: 'srgb' as const,
    slots: [0, 1, 2].map((component) => ({ channel: 'colour', component, inverted: false })),
  }
  const normal = {
    transfer: 'raw' as const,
    slots: [0, 1, 2].map((component) => ({ channel: 'normal', component, inverted: false })),
  }

  test('black and white in sRGB meet at 188, the code of half the light; data at 128', () => {
    // IEC 61966-2-1: 0.5 is encoded as 0.7354, which is 187.5 of 255.
    const checker = [0, 1, 1, 0]
    expect(Math.round(mipOf(image(checker, 2, 1), 1, raw).values[0]! * 255)).toBe(128)
    const grey = mipOf(
      image(
        checker.flatMap((v) => [v, v, v]),
        2,
        3,
      ),
      1,
      colour,
    )
    expect(Math.round(grey.values[0]! * 255)).toBe(188)
  })

  test('greys against NumPy’s means, level by level, rounded to 16 bits each time', () => {
    const field = noisyField(32, 16)
    const source = image([...field.planes[0]!], 32, 1, { bits: 16 })
    const code = `
out = np.round(a*65535)/65535
for i in range(3):
    out = out.reshape(out.shape[0]//2, 2, out.shape[1]//2, 2).mean(axis=(1,3))
    out = np.floor(out*65535+0.5)/65535`
    const rounded = { ...source, values: source.values.map((v) => Math.round(v * 65535) / 65535) }
    const made = mipOf(rounded, 3, raw)
    expect([made.width, made.height]).toEqual([4, 2])
    expect(largestDifference(made.values, python(code, field.planes[0]!, [16, 32]))).toBeLessThan(1.6 / 65535)
  })

  test('normals stay of length 1; floats too; the chain ends at one texel', () => {
    const tilted = [0.6, 0, 0.8, -0.6, 0, 0.8, 0, 0.6, 0.8, 0, -0.6, 0.8]
    const bytes = image(
      tilted.map((v) => v * 0.5 + 0.5),
      2,
      3,
    )
    const flat = mipOf(bytes, 1, normal)
    expect([...flat.values].map((v) => Math.round(v * 255))).toEqual([128, 128, 255])
    const floats = mipOf(image(tilted, 2, 3, { float: true, bits: 32 }), 9, normal)
    expect([floats.width, floats.height]).toEqual([1, 1])
    expect(Math.hypot(...floats.values)).toBeCloseTo(1, 6)
  })
})

test('sharpening base colour against SciPy, in encoded values, at the size it is made', async () => {
  const [plain, crisp] = [await fieldsAt(64), await fieldsAt(64, 0.5)]
  const encoded = plain.get('colour')!.planes[0]!.map(encodeSrgb)
  const code = `
import scipy.ndimage as nd
around = nd.convolve(a, np.array([[0,1,0],[1,0,1],[0,1,0]])/4, mode="wrap")
out = np.clip(a + 0.5*(a-around), 0, 1)`
  const expected = python(code, encoded, [64, 64]).map(decodeSrgb)
  expect(largestDifference(crisp.get('colour')!.planes[0]!, expected)).toBeLessThan(2e-6)
  // Nothing else is touched.
  for (const id of ['roughness', 'height', 'normal']) expect(crisp.get(id)!.planes).toEqual(plain.get(id)!.planes)
  const { record } = await delivered(one({ slots: three('colour'), transfer: 'srgb' }), { sharpen: 0.5 })
  expect(record.sharpen).toBe(0.5)
})

test('names: every field, and clear words for those that only parts have', () => {
  const files = [
    { map: 'a', format: 'png' as const },
    { map: 'b', format: 'exr' as const },
  ]
  const values = { project: 'Lock', material: 'Setts', size: 512, delivery: 12 }
  expect(fileNames('{project}_{material}_{map}_{size}_{delivery}', files, values)).toEqual([
    'Lock_Setts_a_512_12.png',
    'Lock_Setts_b_512_12.exr',
  ])
  expect(fileNames('{material}', files, values)).toEqual(['Setts.png', 'Setts.exr'])
  const on = { ...values, part: 'Wheel, Rim', udim: 1001 }
  expect(fileNames('{part}_{map}.{udim}', files, on)).toEqual(['Wheel-Rim_a.1001.png', 'Wheel-Rim_b.1001.exr'])
  expect(fileNames('{part}{part}{map}', files, { ...on, part: 'p'.repeat(200) })[0]).toHaveLength(255)
  expect(() => fileNames('{part}_{map}', files, values)).toThrow('{part}, but this material lies on no part')
  expect(() => fileNames('{udim}', files, values)).toThrow('{udim}, but this material lies on no part')
  expect(() => fileNames('{delivery}', files, { material: 'x' })).toThrow('asks for {delivery}')
  expect(() => fileNames('{__proto__}', files, values)).toThrow('unknown field')
})

test('spreads against NumPy’s histograms; metals apart from the rest', () => {
  const n = 64
  const colour = fieldOf('colour', n, n, (x, y, p) => (p === 1 ? ((x * 7 + y * 13) % n) / n : 0.001))
  const metallic = fieldOf('grey', n, n, (x) => (x < 16 ? 1 : 0))
  const [spread] = channelHistograms([
    { channel: channels.get('colour')!, field: colour },
    { channel: channels.get('metallic')!, field: metallic },
  ])
  expect(spread!.series.map(({ word }) => word)).toEqual(['not metal', 'metal'])
  const encoded = colour.planes[1]!.map((v) => encodeSrgb(Math.max(v, 0.001)))
  const code = (part: string): string => `out = np.histogram(a${part}, bins=64, range=(0,1))[0]/a${part}.size`
  const expected = [python(code('[:,16:]'), encoded, [n, n]), python(code('[:,:16]'), encoded, [n, n])]
  spread!.series.forEach((one, s) => expect(largestDifference(one.bins, expected[s]!)).toBeLessThan(1e-6))
})
