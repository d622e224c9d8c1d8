import { readWithOiio } from '../../testing/oiio'
import { deliverHere } from '../../testing/deliver-here'
import { documentOf, evaluateOutputs } from '../../testing/examples'
import { CHANNELS } from '../../document/channels'
import { channelsAtMip } from '../mip-chain'
import { packedImage } from '../pack-image'
import { randomNumbers } from '../../testing/random-values'
import { decodeBlocks } from '../../kernels/blocks/decode-blocks'
import { GristError } from '../../errors'
import { parseDds } from '../bytes/dds-container'
import { definePacking, filesOf } from '../packing'
import type { Packing } from '../packing'

type File = Packing['files'][number]
const three = (channel: string): File['slots'] => [
  { channel, component: 0, invert: false },
  { channel, component: 1, invert: false },
  { channel, component: 2, invert: false },
]
const packingOf = (files: readonly Partial<File>[]): Packing =>
  definePacking({
    name: 'blocks',
    title: 'Blocks',
    summary: '',
    pattern: '{map}',
    files: files.map((file, i) => ({ map: `m${i}`, format: 'dds', bits: 8, transfer: 'raw', ...file })) as never,
  })

/** Black and white stripes of a texel at 64, slopes, and an opacity of one texel in two. */
const checks = documentOf({
  nodes: {
    squares: { type: 'stripes', params: { frequency: [32, 0] } },
    bumps: { type: 'noise', params: { cells: [16, 16] } },
  },
  layers: [
    {
      kind: 'layer',
      id: 'all',
      name: 'All',
      cells: {
        colour: { source: { node: 'squares.grey' } },
        height: { source: { node: 'bumps.grey' } },
        roughness: { source: { node: 'bumps.grey' } },
        opacity: { source: { node: 'bumps.grey' } },
      },
    },
  ],
})

const levelOf = (file: Uint8Array, level: number): { texels: Uint8Array; width: number; channels: number } => {
  const { block, levels } = parseDds(file)
  const { at, bytes, width, height } = levels[level]!
  const data = file.subarray(at, at + bytes)
  const texels = block ? decodeBlocks(block, data, width, height) : data
  return { texels, width, channels: texels.length / width / height }
}

test('files of each kind are read by OpenImageIO with the values that were written, and hold their whole mip chain', async () => {
  const { files, record } = await deliverHere(
    checks,
    packingOf([
      { map: 'plain', slots: three('colour'), transfer: 'srgb', mips: true },
      { map: 'bc1', slots: three('colour'), transfer: 'srgb', block: 'bc1', mips: true },
      { map: 'bc4', slots: [{ channel: 'roughness', component: 0, invert: false }], block: 'bc4', quality: 'best' },
      { map: 'bc5', slots: three('normal'), block: 'bc5', mips: true },
      { map: 'bc7', slots: three('normal'), block: 'bc7', quality: 'fast', mips: true },
    ]),
  )
  expect(record.files.map(({ block, mips }) => [block, mips])).toEqual([
    [undefined, true],
    ['bc1', true],
    ['bc4', undefined],
    ['bc5', true],
    ['bc7', true],
  ])
  for (const [map, channels] of [
    ['plain', 4],
    ['bc1', 4],
    ['bc4', 1],
    ['bc5', 2],
    ['bc7', 4],
  ] as const) {
    const file = files.get(`${map}.dds`)!
    const { planes } = readWithOiio(file, 'dds')
    const own = levelOf(file, 0).texels
    const off = Math.max(
      ...planes
        .slice(0, channels)
        .map((plane, c) => Math.max(...plane.map((v, i) => Math.abs(Math.round(v * 255) - own[i * channels + c]!)))),
    )
    expect([map, off <= 1]).toEqual([map, true])
    if (map !== 'bc4') expect(parseDds(file).levels.map(({ width }) => width)).toEqual([64, 32, 16, 8, 4, 2, 1])
  }
  expect(parseDds(files.get('bc4.dds')!).levels).toHaveLength(1)
  // Stripes of 0 and 1 in linear light come to 0.5, which is 187.5 of 255 encoded (IEC 61966-2-1).
  const { texels, channels } = levelOf(files.get('plain.dds')!, 1)
  for (let i = 0; i < 32 * 32; i++) expect([187, 188]).toContain(texels[i * channels])
  // Normals have length 1 at every level, and a Z that is worked out is that of the direction.
  for (let level = 1; level < 5; level++) {
    const at = levelOf(files.get('bc7.dds')!, level)
    for (let i = 0; i < at.width * at.width; i++) {
      const [x, y, z] = [0, 1, 2].map((c) => at.texels[i * 4 + c]! / 127.5 - 1) as [number, number, number]
      expect(Math.abs(Math.hypot(x, y, z) - 1)).toBeLessThan(0.1)
    }
  }
})

test('sRGB is marked where the header can', async () => {
  const { files } = await deliverHere(
    checks,
    packingOf([
      { map: 'colour', slots: three('colour'), transfer: 'srgb', block: 'bc7', quality: 'fast' },
      { map: 'data', slots: three('normal'), block: 'bc7', quality: 'fast' },
      { map: 'older', slots: three('colour'), transfer: 'srgb', block: 'bc1' },
    ]),
  )
  expect(['colour', 'data', 'older'].map((map) => parseDds(files.get(`${map}.dds`)!).srgb)).toEqual([true, false, null])
})

test('sizes that blocks do not fit are refused; so are slots and formats', async () => {
  const bc1 = packingOf([{ slots: three('colour'), block: 'bc1' }])
  await expect(deliverHere(checks, bc1, { width: 66 })).rejects.toThrow('multiples of 4')
  expect(() => packingOf([{ slots: three('colour'), block: 'bc4' }])).toThrow('BC4 takes 1 slots')
  expect(() => packingOf([{ slots: three('colour'), format: 'png', block: 'bc1' }])).toThrow(
    'holds neither blocks nor mips',
  )
})

test('2000 damaged files give a picture or a typed error', async () => {
  const { files } = await deliverHere(
    checks,
    packingOf([
      { map: 'bc1', slots: three('colour'), block: 'bc1', mips: true },
      { map: 'bc7', slots: three('colour'), block: 'bc7', quality: 'fast' },
      { map: 'plain', slots: three('colour') },
    ]),
  )
  const random = randomNumbers(12)
  let read = 0
  for (let n = 0; n < 2000; n++) {
    const whole = [...files.values()][n % files.size]!
    const file = whole.slice(0, n % 3 === 0 ? Math.floor(random() * whole.length) : whole.length)
    for (let k = 0; k < 1 + (n % 4) && file.length > 0; k++)
      file[Math.floor(random() * Math.min(150, file.length))] = Math.floor(random() * 256)
    try {
      const { width, height, levels } = parseDds(file)
      // What is promised is there.
      for (const { at, bytes } of levels) expect(at + bytes).toBeLessThanOrEqual(file.length)
      expect(width * height).toBeLessThanOrEqual(file.length * 2)
      read++
    } catch (error) {
      expect(error).toBeInstanceOf(GristError)
    }
  }
  expect(read).toBeGreaterThan(300)
})

test('a mip that is looked at before a delivery is the level that the delivered file holds, texel for texel', async () => {
  const packing = packingOf([
    { map: 'plain', slots: three('normal'), transfer: 'raw', mips: true },
    {
      ...{ map: 'rough', slots: [{ channel: 'roughness', component: 0, invert: false }], transfer: 'raw' },
      ...{ block: 'bc4', mips: true, roughens: true },
    },
  ])
  const { files } = await deliverHere(checks, packing)
  const { fields } = await evaluateOutputs(checks, ['normal', 'roughness'], 64)
  const channels = new Map(CHANNELS.map((channel) => [channel.id, channel]))
  const size = fields.get('normal')!
  for (const [i, plan] of filesOf(packing, CHANNELS).entries()) {
    const file = [...files].find(([name]) => name.endsWith(`${plan.map}.dds`))![1]
    for (const level of [0, 1, 3, 6]) {
      const rules = { keepsCoverage: false, roughens: i === 1 }
      const mip = channelsAtMip(fields, { width: size.width, height: size.height, level }, CHANNELS, rules)
      const whole = { ...mip, channels, heightMetres: 0.05, dither: false, host: { throughJpeg: never } }
      const { image } = await packedImage(plan, plan.map, whole)
      const written = levelOf(file, level)
      expect([image.width, image.channels]).toEqual([written.width, i === 0 ? 3 : 1])
      image.values.forEach((v, at) => {
        const [texel, c] = [Math.floor(at / image.channels), at % image.channels]
        expect(Math.round(v * 255)).toBe(written.texels[texel * written.channels + c])
      })
    }
  }
})
const never = () => Promise.reject(new Error('no JPEG here'))
