import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { strToU8, zipSync } from 'fflate'
import { produce } from 'immer'
import sharp from 'sharp'
import type { MaterialDocument } from '../document/document'
import { parseDocument } from '../document/document'
import { clearCell } from '../document/edits/layers'
import { DOCUMENT_VERSION } from '../document/upgrade'
import { GristError } from '../errors'
import type { RasterImage } from '../field/pyramid'
import { decodePng } from '../testing/decode-png'
import { materialHere } from '../testing/material-here'
import { randomNumbers } from '../testing/random-values'
import { tagOf, taggedFileName } from './exported-pictures'
import type { OpenRaster, RasterLayer } from './open-raster'
import { readOpenRaster, writeOpenRaster } from './open-raster'
import { applyImport } from './apply-import'
import { exportLayers, exportPicture } from './export-layers'
import { compareImport } from './compare-import'

const WIDTH = 32
const document = parseDocument({
  format: 'amber-grist/material',
  version: DOCUMENT_VERSION,
  name: 'Sluice',
  domain: { kind: 'tile', metres: [1, 1] },
  nodes: {
    grain: { type: 'noise', params: { cells: [4, 4] } },
    spots: { type: 'noise', params: { cells: [7, 7], seed: 3 } },
  },
  layers: [
    { kind: 'layer', id: 'iron', name: 'Iron', cells: { colour: { source: { value: '#5a5148' } } } },
    {
      kind: 'layer',
      id: 'rust',
      name: 'Rust & lime',
      amount: 0.8,
      mask: [{ source: { node: 'spots.grey' } }],
      cells: {
        colour: { source: { value: '#b46a32' }, blend: 'multiply', amount: 0.5 },
        roughness: { source: { node: 'grain.grey' } },
      },
    },
  ],
})

const unpainted = { state: 'unchanged', values: null, opacity: null }
const back = async (of: MaterialDocument, raster: OpenRaster) => compareImport(materialHere(of), raster, decodePng)
/** The file with other layers. */
const withLayers = (raster: OpenRaster, change: (layer: RasterLayer) => Promise<RasterLayer>): Promise<OpenRaster> =>
  Promise.all(raster.layers.map(change)).then((layers) => ({ ...raster, layers }))

/** A red square painted onto a layer, which is then cut to what is left of it, as image editors do. */
async function painted(layer: RasterLayer, crop?: { left: number; top: number; width: number; height: number }) {
  const square = { create: { width: 8, height: 8, channels: 4, background: '#ff0000' } } as const
  const whole = await sharp(layer.png)
    .ensureAlpha()
    .composite([{ input: square, left: 4, top: 12 }])
    .png()
    .toBuffer()
  const png = crop ? await sharp(whole).extract(crop).png().toBuffer() : whole
  return { ...layer, png: new Uint8Array(png), x: crop?.left ?? 0, y: crop?.top ?? 0 }
}

test('a layer is exported as its cells and its mask, a channel as its layers; imported as they are they change nothing', async () => {
  const session = materialHere(document)
  const layer = await exportLayers(session, { kind: 'layer', layer: 'rust' }, WIDTH)
  expect(layer.name).toBe('Sluice, Rust & lime.ora')
  const raster = readOpenRaster(layer.bytes)
  expect(raster.layers.map(({ name }) => name.replace(/ #.*/, ''))).toEqual([
    'Rust & lime, Base colour [cell:rust:colour',
    'Rust & lime, Roughness [cell:rust:roughness',
    'Rust & lime, mask [layer:rust:mask',
  ])
  // Colours and masks in 8 bits, data in 16.
  const depths = await Promise.all(raster.layers.map(async ({ png }) => (await sharp(png).metadata()).depth))
  expect(depths).toEqual(['uchar', 'ushort', 'uchar'])
  for (const one of await back(document, raster)) expect(one).toMatchObject(unpainted)

  const channel = await exportLayers(session, { kind: 'channel', channel: 'colour' }, WIDTH)
  const stack = readOpenRaster(channel.bytes)
  expect(stack.layers).toMatchObject([
    { opacity: 1, blend: 'normal', visible: true },
    { opacity: 0.4, blend: 'multiply', visible: true },
  ])
  for (const one of await back(document, stack)) expect(one).toMatchObject(unpainted)
})

test('the file is what Python’s zipfile and XML reader find in it: the type first and unpacked, layers from the top', async () => {
  const { bytes } = await exportLayers(materialHere(document), { kind: 'channel', channel: 'colour' }, WIDTH)
  const folder = mkdtempSync(join(tmpdir(), 'open-raster-'))
  try {
    writeFileSync(join(folder, 'a.ora'), bytes)
    const script = `
import json, sys, zipfile
import xml.etree.ElementTree as tree
z = zipfile.ZipFile(sys.argv[1])
first = z.infolist()[0]
image = tree.fromstring(z.read('stack.xml'))
layers = [dict(layer.attrib) for layer in image.find('stack')]
print(json.dumps(dict(bad=z.testzip(), first=first.filename, stored=first.compress_type == 0, type=z.read(first).decode(),
  image=dict(image.attrib), layers=layers, there=all(layer['src'] in z.namelist() for layer in layers),
  png=[z.read(n)[:4].hex() for n in ('mergedimage.png', 'Thumbnails/thumbnail.png')])))`
    const told = JSON.parse(execFileSync('python3', ['-c', script, join(folder, 'a.ora')]).toString()) as {
      layers: Record<string, string>[]
    }
    expect(told).toMatchObject({
      ...{ bad: null, first: 'mimetype', stored: true, type: 'image/openraster', there: true },
      image: { w: '32', h: '32', version: '0.0.5' },
      png: ['89504e47', '89504e47'],
    })
    expect(told.layers.map((layer) => [layer['composite-op'], layer.opacity, layer.visibility])).toEqual([
      ['svg:multiply', '0.4', 'visible'],
      ['svg:src-over', '1', 'visible'],
    ])
    expect(told.layers[0]!.name).toMatch(/^Rust & lime \[cell:rust:colour with mask #[0-9a-f]{8}\]$/)
  } finally {
    rmSync(folder, { recursive: true })
  }
})

test('what was painted on is imported into its cell, also where it was cut to its border; a second time into the same node', async () => {
  const { bytes } = await exportLayers(materialHere(document), { kind: 'layer', layer: 'rust' }, WIDTH)
  const raster = await withLayers(readOpenRaster(bytes), async (layer) =>
    layer.name.includes('rust:colour') ? painted(layer, { left: 2, top: 4, width: 20, height: 24 }) : layer,
  )
  // Through the file once more, as an editor would save it.
  const pngs = { merged: raster.layers[0]!.png, thumbnail: raster.layers[0]!.png }
  const [colour, ...others] = await back(document, readOpenRaster(writeOpenRaster(raster, pngs)))
  expect(colour).toMatchObject({ state: 'changed', opacity: null, changed: 64 / WIDTH ** 2 })
  for (const one of others) expect(one).toMatchObject(unpainted)

  const images = new Map<string, RasterImage>()
  const keep = async (name: string, png: Uint8Array): Promise<string> => {
    const { width, height, values } = await decodePng(png)
    const floats = Float32Array.from(values, (v) => v / 255)
    images.set(name, { width, height, channels: 4, values: floats, bits: 8, float: false })
    return name
  }
  const image = await keep('sha256:first', colour!.values!)
  const next = produce(document, (draft) => applyImport(draft, colour!.tag.output, image, 'Rust'))
  const nodes = Object.keys(next.nodes).length
  expect(nodes).toBe(3)
  const { fields } = await materialHere(next, { images: { load: async (name) => images.get(name)! } }).evaluate({
    outputs: [{ kind: 'cell', layer: 'rust', channel: 'colour' }],
    width: WIDTH,
  })
  const [red, green] = fields.get('cell:rust:colour')!.planes
  const at = (x: number, y: number): number => y * WIDTH + x
  // Pure red is 1 and 0; #b46a32 in linear light: .456, .144 (IEC 61966-2-1).
  expect([red![at(8, 16)], green![at(8, 16)]].map((v) => v!.toFixed(2))).toEqual(['1.00', '0.00'])
  expect([red![at(28, 2)], green![at(28, 2)]].map((v) => v!.toFixed(2))).toEqual(['0.46', '0.14'])

  const again = produce(next, (draft) => applyImport(draft, colour!.tag.output, 'sha256:second', 'Rust'))
  expect(Object.keys(again.nodes)).toHaveLength(nodes)
  expect(again.layers).toEqual(next.layers)
})

test('opacity that was painted on is the layer’s mask; entries before it are off, and stay', async () => {
  const { bytes } = await exportLayers(materialHere(document), { kind: 'channel', channel: 'colour' }, WIDTH)
  const raster = await withLayers(readOpenRaster(bytes), async (layer) =>
    layer.name.includes('rust') ? painted(layer) : layer,
  )
  const [iron, rust] = await back(document, raster)
  expect(iron).toMatchObject(unpainted)
  expect(rust).toMatchObject({ state: 'changed' })
  const opacity = await decodePng(rust!.opacity!)
  expect(opacity.values[(16 * WIDTH + 8) * 4]).toBe(255)
  const next = produce(document, (draft) => applyImport(draft, rust!.tag.output, 'sha256:mask', 'Rust', 'opacity'))
  const layer = next.layers[1]!
  expect(layer.mask.map(({ off, mode }) => [off, mode])).toEqual([
    [true, 'multiply'],
    [undefined, 'multiply'],
  ])
})

test('what changed in the material too is a conflict, unless both are alike; what no longer exists is missing', async () => {
  const { bytes } = await exportLayers(materialHere(document), { kind: 'layer', layer: 'rust' }, WIDTH)
  const changed = produce(document, (draft) => void (draft.nodes.grain!.params = { cells: [9, 9] }))
  const states = async (of: MaterialDocument): Promise<string[]> =>
    (await back(of, readOpenRaster(bytes))).map(({ state }) => state)
  expect(await states(changed)).toEqual(['unchanged', 'conflict', 'unchanged'])
  const without = produce(document, (draft) => void draft.layers.pop())
  expect(await states(without)).toEqual(['missing', 'missing', 'missing'])
  const emptied = produce(document, (draft) => clearCell(draft, 'rust', 'colour'))
  expect(await states(emptied)).toEqual(['missing', 'unchanged', 'unchanged'])
})

test('a mask that was painted before is the whole mask again, whatever was done to it; a dial no longer sets what was painted', () => {
  const mask = { kind: 'mask', layer: 'rust' } as const
  const first = produce(document, (draft) => {
    applyImport(draft, mask, 'sha256:one', 'Rust')
    const layer = draft.layers[1]!
    delete layer.mask[0]!.off
    Object.assign(layer.mask[1]!, { invert: true, amount: 0.5 })
    draft.dials.push({
      ...{ id: 'tint', label: 'Tint', kind: 'colour', default: '#b46a32', value: '#b46a32' },
      drives: [{ layer: 'rust', channel: 'colour', field: 'value', scale: 1, offset: 0 }],
    })
  })
  const next = produce(first, (draft) => {
    applyImport(draft, mask, 'sha256:two', 'Rust')
    applyImport(draft, { kind: 'cell', layer: 'rust', channel: 'colour' }, 'sha256:three', 'Rust')
  })
  expect(next.layers[1]!.mask).toEqual([
    { ...document.layers[1]!.mask[0], off: true },
    { source: { node: 'painted-1.stored' }, mode: 'multiply', amount: 1, invert: false },
  ])
  expect(next.nodes['painted-1']!.params).toMatchObject({ image: 'sha256:two' })
  expect(next.dials[0]!.drives).toEqual([])
})

test('a picture that was cut is refused in words; one that was scaled is compared at its size', async () => {
  const { bytes } = await exportLayers(materialHere(document), { kind: 'layer', layer: 'iron' }, WIDTH)
  const raster = readOpenRaster(bytes)
  await expect(back(document, { ...raster, height: 20 })).rejects.toMatchObject({ code: 'file-unsupported' })
  const half = await withLayers(raster, async (layer) => ({
    ...layer,
    png: new Uint8Array(await sharp(layer.png).resize(16, 16).png().toBuffer()),
  }))
  expect(await back(document, { ...half, width: 16, height: 16 })).toMatchObject([unpainted])
})

test('one map is exported as a PNG and imported as a layer on top', async () => {
  const output = { kind: 'channel', channel: 'roughness' } as const
  const { name, bytes } = await exportPicture(materialHere(document), output, 'Roughness', WIDTH)
  expect(name).toMatch(/^Roughness \[roughness #[0-9a-f]{8}\]\.png$/)
  const layer = { name, png: bytes, x: 0, y: 0, opacity: 1, visible: true, blend: 'normal' } as const
  const raster = { width: WIDTH, height: WIDTH, layers: [layer] }
  expect(await back(document, raster)).toMatchObject([unpainted])
  const [map] = await back(document, await withLayers(raster, (one) => painted(one)))
  expect(map).toMatchObject({ state: 'changed' })
  const next = produce(document, (draft) => applyImport(draft, output, 'sha256:map', 'Roughness'))
  expect(next.layers.at(-1)).toMatchObject({ name: 'Roughness, painted', cells: { roughness: { amount: 1 } } })
  expect(parseDocument(next)).toEqual(next)
})

describe('files of other programs', () => {
  const png = new Uint8Array([0x89, 0x50])
  const file = (xml: string, files: Record<string, Uint8Array> = { 'data/a.png': png }, type = 'image/openraster') =>
    zipSync({ mimetype: strToU8(type), 'stack.xml': strToU8(xml), ...files })
  const image = (inside: string): string => `<?xml version='1.0'?><image w="8" h="4">${inside}</image>`

  test('groups, offsets within them, what is left out and what is hidden', () => {
    const { width, height, layers } = readOpenRaster(
      file(
        image(
          `<stack><layer name="A &amp; B" src="data/a.png" opacity="0.25" composite-op="svg:screen"/>
           <stack x="2" y="-1" visibility="hidden"><layer src="data/a.png" x="1" composite-op="own:new"/></stack></stack>`,
        ),
      ),
    )
    expect([width, height]).toEqual([8, 4])
    expect(layers).toEqual([
      { name: '', png, x: 3, y: -1, visible: false, opacity: 1, blend: 'normal' },
      { name: 'A & B', png, x: 0, y: 0, visible: true, opacity: 0.25, blend: 'screen' },
    ])
  })

  test.each([
    ['another type', file(image(''), {}, 'image/png'), 'file-unsupported'],
    ['no ZIP', new Uint8Array([1, 2, 3]), 'file-invalid'],
    ['a layer without its picture', file(image('<stack><layer src="b.png"/></stack>')), 'file-invalid'],
    ['sizes that are none', file(image('').replace('w="8"', 'w="0"')), 'file-invalid'],
    ['no XML', file('<image'), 'file-invalid'],
    ['entities of its own', file(`<!DOCTYPE a [<!ENTITY b "c">]>${image('')}`), 'file-unsupported'],
  ])('%s is refused', (_, bytes, code) => {
    expect(() => readOpenRaster(bytes)).toThrow(expect.objectContaining({ code }) as GristError)
  })

  test('mutated files are read, or refused in words', async () => {
    const { bytes } = await exportLayers(materialHere(document), { kind: 'layer', layer: 'rust' }, 4)
    const random = randomNumbers(11)
    for (let i = 0; i < 1500; i++) {
      const broken = bytes.slice(0, random() < 0.2 ? Math.floor(random() * bytes.length) : bytes.length)
      for (let n = 0; n < 1 + random() * 6; n++) broken[Math.floor(random() * broken.length)] = random() * 256
      try {
        readOpenRaster(broken)
      } catch (error) {
        if (!(error instanceof GristError)) throw error
      }
    }
  })
})

test('tags are found in names that were made longer, and in names of files', () => {
  const tag = { output: { kind: 'cell', layer: 'rust-2', channel: 'base_1' }, withMask: true, key: '0123abcd' } as const
  const name = taggedFileName('Rust: "old"', tag, '.png')
  expect(name).toBe('Rust~ _old_ [cell~rust-2~base_1 with mask #0123abcd].png')
  expect(tagOf(`${name} copy 2`)).toEqual(tag)
  for (const other of ['Layer 1', '[cell:rust #0123abcd]', '[lay.distance #0123abcd]', '[cell:rust:colour #0123]'])
    expect(tagOf(other)).toBeNull()
})
