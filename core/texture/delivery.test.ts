import { Buffer } from 'node:buffer'
import { createHash } from 'node:crypto'
import { GristError } from '../errors'
import { uniformField } from '../field/field'
import type { Field } from '../field/field'
import { CHANNELS, deliverableChannels } from '../document/channels'
import { documentOf, evaluateOutputs } from '../testing/examples'
import { deliverHere } from '../testing/deliver-here'
import { largestDifference } from '../testing/fields'
import { readWithOiio } from '../testing/oiio'
import { toHalf } from './bytes/half'
import { packRows } from './pack-rows'
import type { Packing, PackedFile } from './packing'
import { definePacking, fileNames, filesOf, parsePacking } from './packing'
import { packings } from './packings/packings.generated'
import { parseRecord } from './record'

const deliverable = deliverableChannels(documentOf({ domain: { kind: 'part' } }))
const channels = new Map(deliverable.map((channel) => [channel.id, channel]))
const named = (name: string): Packing => packings.find((packing) => packing.name === name)!

describe('packing sheets', () => {
  test('each shipped packing lays channels where its source says', () => {
    const files = (name: string) =>
      Object.fromEntries(
        filesOf(named(name), deliverable).map((file) => [
          file.map,
          file.slots.map((slot) =>
            'channel' in slot ? `${slot.invert ? '1-' : ''}${slot.channel}.${slot.component}` : slot.constant,
          ),
        ]),
      )
    // glTF 2.0, 3.9.2 and 3.9.3: occlusion in R, roughness in G, metallic in B; normal with +Y up.
    expect(files('occlusion-rough-metal-y-up')).toEqual({
      colour: ['colour.0', 'colour.1', 'colour.2', 'opacity.0'],
      normal: ['normal.0', 'normal.1', 'normal.2'],
      'occlusion-rough-metal': ['occlusion.0', 'roughness.0', 'metallic.0'],
      emission: ['emission.0', 'emission.1', 'emission.2'],
    })
    expect(files('occlusion-rough-metal-y-down').normal).toEqual(['normal.0', '1-normal.1', 'normal.2'])
    expect(files('metal-gloss-alpha')['metal-gloss']).toEqual([
      'metallic.0',
      'metallic.0',
      'metallic.0',
      '1-roughness.0',
    ])
    expect(files('metal-occlusion-detail-gloss').masks).toEqual(['metallic.0', 'occlusion.0', 1, '1-roughness.0'])
    // KHR_materials_pbrSpecularGlossiness: specular in R, G, B and glossiness in A.
    expect(files('specular-gloss')['specular-gloss']).toEqual([
      'specular.0',
      'specular.1',
      'specular.2',
      '1-roughness.0',
    ])
    // Common practice: 15 of 255 is a middling strength.
    expect(files('specular-strength').specular!.at(-1)).toBe(15 / 255)
    expect(files('specular-strength-painted').diffuse![0]).toBe('diffuse-highlights.0')
    expect(files('strands').strands).toEqual([0, 0, 0.5])
    const own = documentOf({ channels: { root: { type: 'grey', backdrop: 0 }, tone: { type: 'grey', backdrop: 0 } } })
    const strands = filesOf(named('strands'), deliverableChannels(own)).find(({ map }) => map === 'strands')!
    expect(strands.slots.map((slot) => ('channel' in slot ? slot.channel : slot.constant))).toEqual(['root', 0, 'tone'])
    // Displacement needs what 8 bits do not hold: height goes out as floats, nothing shares a file.
    const offline = filesOf(named('offline-render'), deliverable)
    expect(offline.map(({ map, format, bits }) => [map, format, bits])).toEqual([
      ...['colour', 'opacity', 'emission', 'roughness', 'metallic', 'normal'].map((map) => [map, 'tiff', 16]),
      ['height', 'exr', 32],
    ])
    const separate = filesOf(named('separate-maps'), deliverable)
    expect(separate.map((file) => [file.map, file.bits, file.slots.length, file.transfer])).toEqual(
      CHANNELS.map(({ id, type, transfer }) => [id, 16, type === 'grey' ? 1 : 3, transfer]),
    )
  })

  test('colour files are encoded, data is not', () => {
    for (const packing of packings)
      for (const file of filesOf(packing, deliverable)) {
        const first = file.slots[0]!
        expect([file.map, file.transfer]).toEqual([
          file.map,
          'channel' in first ? channels.get(first.channel)!.transfer : 'raw',
        ])
      }
  })

  test.each([
    [{ bits: 32 }, 'PNG has no 32-bit form'],
    [{ format: 'tga', slots: [{ channel: 'height' }] }, 'takes three or four slots'],
    [{ format: 'exr', bits: 8 }, 'EXR has no 8-bit form'],
    [{ slots: [{ constant: 2 }] }, 'slots'],
    [{ slots: [{ channel: 'height' }, { channel: 'height' }] }, 'slots'],
    [{ map: 'a/b' }, 'map'],
  ])('%j is refused', (change, words) => {
    const file = { map: 'a', slots: [{ channel: 'height' }], transfer: 'raw', format: 'png', bits: 8, ...change }
    expect(() => definePacking({ name: 'p', title: '', summary: '', files: [file] as never })).toThrow(words)
    expect(() => parsePacking({})).toThrow(GristError)
  })

  test('names: fields, unsafe characters, clashes, unknown fields and channels', () => {
    const files = filesOf(named('occlusion-rough-metal-y-up'), deliverable)
    const fields = { material: 'Quay setts/../x', size: 512 }
    expect(fileNames('{material}_{map}', files, fields)[0]).toBe('Quay-setts-..-x_colour.png')
    expect(fileNames('{map}.{size}', files, fields)[1]).toBe('normal.512.png')
    expect(() => fileNames('{material}', files, fields)).toThrow('Two files would be called')
    expect(() => fileNames('{colour}', files, fields)).toThrow('unknown field {colour}')
    const bad = definePacking({
      name: 'p',
      title: '',
      summary: '',
      files: [{ map: 'a', slots: [{ channel: 'wear' }], transfer: 'raw', format: 'png', bits: 8 }],
    })
    expect(() => filesOf(bad, CHANNELS)).toThrow('no channel "wear"')
  })
})

describe('packing values', () => {
  const pack = (file: Partial<PackedFile> & Pick<PackedFile, 'slots'>, fields: Record<string, Field>, float = false) =>
    packRows(
      { map: 'm', format: 'png', bits: 8, transfer: 'raw', ...file },
      { channels, fields: new Map(Object.entries(fields)), top: 0, rows: 1, width: 1, float, heightMetres: 0.1 },
      file.slots.map(() => ({ min: Infinity, max: -Infinity })),
    )
  const one = (type: 'grey' | 'colour' | 'normal', ...values: number[]) => uniformField(type, 1, 1, values)
  const slot = (channel: string, component = 0, invert = false) => ({ channel, component, invert })

  test('sRGB encodes the first three slots, never alpha', () => {
    const slots = [slot('colour', 0), slot('colour', 1), slot('colour', 2), slot('opacity')] as PackedFile['slots']
    const got = pack(
      { slots, transfer: 'srgb' },
      { colour: one('colour', 0.21404114, 1, 0), opacity: one('grey', 0.21404114) },
    )
    expect([...got].map((v) => Math.round(v * 1e5) / 1e5)).toEqual([0.5, 1, 0, 0.21404])
  })
  test('normals are n·½ + ½; Y down is the same with the sign of y turned; floats keep −1…1', () => {
    const n = { normal: one('normal', 0.6, 0.48, 0.64) }
    const slots = [slot('normal', 0), slot('normal', 1, true), slot('normal', 2)] as PackedFile['slots']
    const got = [...pack({ slots }, n)]
    ;[0.8, 0.26, 0.82].forEach((v, i) => expect(got[i]).toBeCloseTo(v, 6))
    const floats = [...pack({ slots, format: 'exr', bits: 16 }, n, true)]
    ;[0.6, -0.48, 0.64].forEach((v, i) => expect(floats[i]).toBeCloseTo(v, 6))
  })
  test('gloss is 1 − roughness; height in float files is metres about the surface; constants stand', () => {
    expect(pack({ slots: [slot('roughness', 0, true)] }, { roughness: one('grey', 0.3) })[0]).toBeCloseTo(0.7, 6)
    expect(
      pack({ slots: [slot('height')], format: 'exr', bits: 16 }, { height: one('grey', 0.75) }, true)[0],
    ).toBeCloseTo(0.025, 6)
    expect(pack({ slots: [{ constant: 0.25 }] }, {})[0]).toBe(0.25)
  })
})

describe('a delivery', () => {
  const document = documentOf({
    name: 'Small',
    nodes: { n: { type: 'noise', params: { cells: [3, 3] } } },
    layers: [
      {
        kind: 'layer',
        id: 'a',
        name: '',
        cells: {
          height: { source: { node: 'n.grey' } },
          colour: { source: { value: '#b4690e' } },
          roughness: { source: { node: 'n.grey' } },
        },
      },
    ],
  })
  const make = (packing: Packing, more: Parameters<typeof deliverHere>[2] = {}) => deliverHere(document, packing, more)

  test('files hold what the channels hold, read by an independent reader', async () => {
    const { files, record } = await make(named('occlusion-rough-metal-y-up'))
    expect([...files.keys()]).toEqual([
      'Small_colour.png',
      'Small_normal.png',
      'Small_occlusion-rough-metal.png',
      'Small_emission.png',
    ])
    const colour = readWithOiio(files.get('Small_colour.png')!, 'png').planes
    expect(colour.map((plane) => Math.round(plane[7]! * 255))).toEqual([0xb4, 0x69, 0x0e, 255])
    const packed = readWithOiio(files.get('Small_occlusion-rough-metal.png')!, 'png').planes
    const normal = readWithOiio(files.get('Small_normal.png')!, 'png').planes
    for (let i = 0; i < 64 * 64; i++) {
      const length = Math.hypot(...normal.map((plane) => plane[i]! * 2 - 1))
      expect(Math.abs(length - 1)).toBeLessThan(0.02)
    }
    expect(packed[2]!.every((v) => v === 0)).toBe(true)
    const roughness = record.files[2]!.slots[1]!
    expect(Math.abs(Math.min(...packed[1]!) - roughness.min)).toBeLessThan(1 / 255)
    expect(Math.abs(Math.max(...packed[1]!) - roughness.max)).toBeLessThan(1 / 255)
  })

  test('TGA and EXR of a packing of one’s own hold the same channels: bytes, halves, floats in metres', async () => {
    const slot = (channel: string, component = 0) => ({ channel, component })
    const own = definePacking({
      name: 'own',
      title: '',
      summary: '',
      files: [
        {
          map: 'colour',
          format: 'tga',
          bits: 8,
          transfer: 'srgb',
          slots: [slot('colour', 0), slot('colour', 1), slot('colour', 2), { constant: 1 }],
        },
        { map: 'height', format: 'exr', bits: 32, transfer: 'raw', slots: [slot('height')] },
        {
          map: 'normal',
          format: 'exr',
          bits: 16,
          transfer: 'raw',
          slots: [slot('normal', 0), slot('normal', 1), slot('normal', 2)],
        },
      ],
    })
    const { files } = await make(own)
    const { fields } = await evaluateOutputs(document, ['height', 'normal'], 64)
    const colour = readWithOiio(files.get('Small_colour.tga')!, 'tga').planes
    expect(colour.map((plane) => Math.round(plane[9]! * 255))).toEqual([0xb4, 0x69, 0x0e, 255])
    const metres = fields.get('height')!.planes[0]!.map((v) => (v - 0.5) * 0.05)
    expect(largestDifference(readWithOiio(files.get('Small_height.exr')!, 'exr').planes[0]!, metres)).toBeLessThan(1e-8)
    readWithOiio(files.get('Small_normal.exr')!, 'exr').planes.forEach((plane, p) =>
      // Half floats below 1 are 2⁻¹¹ apart.
      expect(largestDifference(plane, fields.get('normal')!.planes[p]!)).toBeLessThanOrEqual(2 ** -12),
    )
  })

  test('a record’s texels are those that OpenImageIO finds, row by row, in every kind of file', async () => {
    const slot = (component: number) => ({ channel: 'normal', component })
    const kinds = [
      ['png', 8],
      ['png', 16],
      ['tga', 8],
      ['tiff', 16],
      ['exr', 16],
      ['exr', 32],
    ] as const
    const own = definePacking({
      name: 'own',
      title: '',
      summary: '',
      files: kinds.map(([format, bits]) => ({
        map: `${format}-${bits}`,
        format,
        bits,
        transfer: 'raw' as const,
        slots: [slot(0), slot(1), slot(2)],
      })),
    })
    const { files, record } = await make(own, { width: 48 })
    for (const [i, [format, bits]] of kinds.entries()) {
      const { name, texels } = record.files[i]!
      const { planes } = readWithOiio(files.get(name)!, format)
      const digest = createHash('sha256')
      for (let y = 0; y < 48; y++) {
        const row = Buffer.alloc((48 * 3 * bits) / 8)
        for (let k = 0; k < 48 * 3; k++) {
          const v = planes[k % 3]![48 * y + Math.floor(k / 3)]!
          if (format === 'exr' && bits === 32) row.writeFloatLE(v, 4 * k)
          else if (format === 'exr') row.writeUInt16LE(toHalf(v), 2 * k)
          else if (bits === 8) row.writeUInt8(Math.round(v * 255), k)
          else row.writeUInt16LE(Math.round(v * 65535), 2 * k)
        }
        digest.update(createHash('sha256').update(row).digest())
      }
      expect([name, digest.digest('hex')]).toEqual([name, texels])
    }
  })

  test('bands, dither and not, give the same texels as the whole', async () => {
    for (const dither of [false, true]) {
      const whole = await make(named('separate-maps'), { dither, width: 128 })
      const parts = await make(named('separate-maps'), {
        dither,
        width: 128,
        budgetBytes: Math.floor(whole.report.forecastBytes * 0.6),
      })
      expect(parts.report.bands).toBeGreaterThan(1)
      // Where pieces of a file begin goes by the bands, so its bytes may differ; what it holds does not.
      const held = (files: typeof whole.record.files): object[] =>
        files.map((file) => ({ ...file, bytes: 0, sha256: '' }))
      expect(held(parts.record.files)).toEqual(held(whole.record.files))
    }
  })

  test('the record is whole: it parses, names keys and hashes, and tells the normal\u2019s direction', async () => {
    const { record } = await make(named('occlusion-rough-metal-y-down'), { dither: true })
    expect(parseRecord(JSON.parse(JSON.stringify(record)))).toEqual(record)
    expect(record).toMatchObject({
      width: 64,
      height: 64,
      dither: true,
      normalY: 'down',
      heightMetres: 0.05,
      document: { name: 'Small' },
    })
    expect(Object.keys(record.keys).sort()).toEqual([
      'colour',
      'emission',
      'metallic',
      'normal',
      'occlusion',
      'opacity',
      'roughness',
    ])
    expect(() => parseRecord({ ...record, files: 3 })).toThrow('files')
  })

  test('a full disk is a typed error', async () => {
    await expect(make(named('separate-maps'), { fail: 'Small_normal.png' })).rejects.toThrow('The disk is full.')
  })
})
