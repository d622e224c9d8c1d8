import { readdirSync, rmSync } from 'node:fs'
import sharp from 'sharp'
import { readImage } from '#runtime/node/read-image'
import { materialFile, workFolder } from './testing/work-folder'

const { folder, at, grist, write } = workFolder()
afterAll(() => rmSync(folder, { recursive: true }))

test('a set is converted to the other workflow and back, read by its names, packed otherwise, and made again from its record', async () => {
  const metal = materialFile({
    nodes: { n: { type: 'noise', params: { cells: [4, 4] } }, m: { type: 'threshold', inputs: { source: 'n.grey' } } },
    layers: [
      {
        ...{ kind: 'layer', id: 'all', name: 'All' },
        cells: {
          colour: { source: { value: '#b87d54' } },
          metallic: { source: { node: 'm.result' } },
          roughness: { source: { node: 'n.grey' } },
          height: { source: { node: 'n.grey' } },
        },
      },
    ],
  })
  write('metal.json', metal)
  await grist('bake', 'metal.json', '--packing', 'separate-maps', '--size', '64', '--out', 'one', '--quiet')
  for (const name of ['record.json', 'maps.txt']) rmSync(at(`one/${name}`))
  expect(await grist('convert', 'one', '--to', 'spec-gloss', '--out', 'two')).toMatchObject({ code: 0, err: '' })
  expect(readdirSync(at('two'))).toEqual(expect.arrayContaining(['one_diffuse.png', 'one_specular-gloss.png']))
  rmSync(at('two/record.json'))
  const back = await grist('convert', 'two', '--packing', 'separate-maps', '--out', 'three')
  expect(back.out).toContain('one_specular-gloss.png: specular, roughness')
  const values = async (folder: string, map: string): Promise<Buffer> => {
    const file = readdirSync(at(folder)).find((name) => name.endsWith(`_${map}.png`))!
    return sharp(at(`${folder}/${file}`))
      .toColourspace('srgb')
      .raw({ depth: 'uchar' })
      .toBuffer()
  }
  for (const [map, most] of [
    ['colour', 3],
    ['roughness', 1],
    ['normal', 1],
    ['metallic', 6],
  ] as const) {
    const [before, after] = [await values('one', map), await values('three', map)]
    const off = Math.max(...before.map((v, i) => Math.abs(v - after[i]!)))
    expect([map, off <= most]).toEqual([map, true])
  }
  expect((await grist('remake', 'three/record.json')).code).toBe(0)
  expect((await grist('convert', 'one', '--to', 'velvet', '--out', 'x')).err).toContain('metal-rough or spec-gloss')

  // Blocks of two channels, green down: the third is worked out, and green turned up.
  const three = [0, 1, 2].map((component) => ({
    channel: 'normal',
    component,
    ...(component === 1 && { invert: true }),
  }))
  write('blocks.json', {
    format: 'amber-grist/packing',
    version: 1,
    ...{ name: 'blocks', title: 'Blocks', summary: '' },
    files: [{ map: 'normal', slots: three, transfer: 'raw', format: 'dds', bits: 8, block: 'bc5' }],
  })
  await grist('bake', 'metal.json', '--packing', 'blocks.json', '--size', '64', '--out', 'blocks', '--quiet')
  rmSync(at('blocks/record.json'))
  expect((await grist('convert', 'blocks', '--packing', 'separate-maps', '--out', 'whole')).out).toContain(': normal')
  const [sent, read] = [await values('one', 'normal'), await values('whole', 'normal')]
  const offs = sent.map((v, i) => Math.abs(v - read[i]!))
  expect(offs.reduce((sum, v) => sum + v, 0) / offs.length).toBeLessThan(2)
})

test('normals go between a surface and the space of its model with --mesh, and the set comes back as it was', async () => {
  // A roof of two quads whose corners share their normals, so that frames turn and shorten between them.
  const corners = [-1, 0, 1].flatMap((x) =>
    [1, -1].map((z) => `v ${x} ${x === 0 ? 0.7 : 0} ${z}\nvt ${(x + 1) / 2} ${(1 - z) / 2}`),
  )
  write('roof.obj', `${corners.join('\n')}\no roof\nf 1/1 3/3 4/4 2/2\nf 3/3 5/5 6/6 4/4\n`)
  const bumpy = materialFile({
    domain: { kind: 'part' },
    nodes: {
      n: { type: 'noise', params: { cells: [4, 4] } },
      s: { type: 'height-to-normal', params: { strength: 4 }, inputs: { height: 'n.grey' } },
    },
    layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { normal: { source: { node: 's.normal' } } } }],
  })
  write('bumpy.json', bumpy)
  const on = ['--mesh', 'roof.obj', '--size', '64', '--quiet']
  const maps = (packing: string, out: string) => grist('bake', 'bumpy.json', '--packing', packing, '--out', out, ...on)
  expect(await maps('object-normals', 'object')).toMatchObject({ code: 0, err: '' })
  expect(await maps('occlusion-rough-metal-y-up', 'tangent')).toMatchObject({ code: 0, err: '' })
  rmSync(at('object/record.json'))
  expect((await grist('convert', 'object', '--out', 'x')).err).toContain('normals in the space of a model')
  const back = await grist('convert', 'object', '--out', 'back', ...on)
  expect(back).toMatchObject({ code: 0, err: '' })
  const again = await grist('convert', 'back', '--packing', 'object-normals', '--out', 'again', ...on)
  expect(again).toMatchObject({ code: 0, err: '' })
  expect((await grist('remake', 'back/record.json', '--mesh', 'roof.obj', '--quiet')).code).toBe(0)
  const texels = async (folder: string, map: string): Promise<Buffer> => {
    const file = readdirSync(at(folder)).find((name) => name.endsWith(`_${map}.png`))!
    return sharp(at(`${folder}/${file}`))
      .raw()
      .toBuffer()
  }
  for (const [map, before, after] of [
    ['normal', 'tangent', 'back'],
    ['object-normal', 'object', 'again'],
  ] as const) {
    const [was, is] = [await texels(before, map), await texels(after, map)]
    expect(Math.max(...was.map((v, i) => Math.abs(v - is[i]!)))).toBeLessThanOrEqual(2)
  }
  // What faces left on the left side of the roof faces right on the right one.
  const object = await texels('object', 'object-normal')
  const mean = (from: number, to: number) => {
    const row = Array.from({ length: to - from }, (_, x) => object[(32 * 64 + from + x) * 3]!)
    return row.reduce((sum, v) => sum + v, 0) / row.length
  }
  expect(mean(0, 20)).toBeLessThan(110)
  expect(mean(44, 64)).toBeGreaterThan(146)
}, 120_000)

test('heights in metres come out as the metres that went in; others span what --height says', async () => {
  const nodes = { n: { type: 'noise', params: { cells: [4, 4] } } }
  const layer = { kind: 'layer', id: 'a', name: 'A', cells: { height: { source: { node: 'n.grey' } } } }
  write('deep.json', materialFile({ heightMetres: 0.3, nodes, layers: [layer] }))
  const sized = ['--size', '32', '--quiet']
  await grist('bake', 'deep.json', '--packing', 'offline-render', '--out', 'deep', ...sized)
  for (const name of ['record.json', 'maps.txt']) rmSync(at(`deep/${name}`))
  const heights = async (name: string): Promise<Float32Array> => {
    const { values, channels } = await readImage(at(name))
    return values.filter((_, i) => i % channels === 0)
  }
  const converted = async (out: string, ...more: string[]) => {
    const packing = ['--packing', 'offline-render']
    expect(await grist('convert', 'deep', '--out', out, ...packing, ...sized, ...more)).toMatchObject({
      code: 0,
      err: '',
    })
    return heights(`${out}/deep_height.exr`)
  }
  const before = await heights('deep/Wall_height.exr')
  expect(Math.max(...before.map(Math.abs))).toBeGreaterThan(0.05)
  const same = await converted('same')
  same.forEach((v, i) => expect(v).toBeCloseTo(before[i]!, 6))
  const tiffs = await grist(
    'convert',
    'deep',
    '--out',
    'tiffs',
    '--packing',
    'separate-maps',
    '--format',
    'tiff',
    '--bits',
    '32',
    ...sized,
  )
  expect(tiffs).toMatchObject({ code: 0, err: '' })
  expect(readdirSync(at('tiffs')).filter((name) => name.endsWith('.tiff')).length).toBeGreaterThan(3)
  const bits = await grist('convert', 'deep', '--out', 'x', '--format', 'tga', '--bits', '16', ...sized)
  expect(bits.err).toContain('TGA has no 16-bit form')
  // The same numbers taken for joins of 2 m: (v − 0.5) · 2.
  const spread = await converted('spread', '--height', '2')
  spread.forEach((v, i) => expect(v).toBeCloseTo((before[i]! - 0.5) * 2, 5))
}, 60_000)
