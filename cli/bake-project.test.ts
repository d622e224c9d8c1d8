import { createWriteStream, existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { pipeline } from 'node:stream/promises'
import { NodeIO } from '@gltf-transform/core'
import { validateBytes } from 'gltf-validator'
import sharp from 'sharp'
import type { Mesh as ThreeMesh } from 'three'
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js'
import { parseDocument } from '#core/document/document'
import { sheetsObj } from '#core/mesh/testing/shapes'
import { packMaterials } from '#runtime/node/material-file'
import type { ModelRecord } from '#runtime/node/deliver-parts'
import { readModelFile } from '#runtime/node/read-model'
import { materialFile, workFolder } from './testing/work-folder'

const { folder, at, grist, write } = workFolder()
afterAll(() => rmSync(folder, { recursive: true }))

/** Two plates side by side, each over the whole of the UVs. */
const plates = [0, 1]
  .map((k) => {
    const [x, n] = [k * 3, k * 4]
    const corners = [
      [0, 0],
      [2, 0],
      [2, 2],
      [0, 2],
    ]
    const lines = corners.map(([u, v]) => `v ${x + u!} 0 ${-v!}\nvt ${u! / 2} ${v! / 2}`)
    return `o plate ${k + 1}\n${lines.join('\n')}\nf ${[1, 2, 3, 4].map((i) => `${n + i}/${n + i}`).join(' ')}\n`
  })
  .join('')
const material = (name: string, colour: string) =>
  materialFile({
    ...{ name, domain: { kind: 'part' } },
    layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { colour: { source: { value: colour } } } }],
  })
const project = (parts: object[]) => ({
  ...{ format: 'amber-grist/project', version: 1, name: 'Yard' },
  models: [{ name: 'Two plates', mesh: 'models/plates.obj', settings: { size: 64, samples: 1, rays: 4 }, parts }],
})
const BOTH = [
  { part: 'plate 1', material: 'Red.json' },
  { part: 'plate 2', material: 'Blue.json' },
]

test('all parts of a project are baked with the model that wears them, from its folder and from its ZIP', async () => {
  writeFileSync(at('plates.obj'), plates)
  const documents = [material('Red', '#c02010'), material('Blue', '#1030c0')].map((one) => parseDocument(one))
  const zip = packMaterials(documents, [], {
    files: [{ path: 'models/plates.obj', read: () => Promise.resolve(new TextEncoder().encode(plates)) }],
    project: ([red, blue]) =>
      project([
        { ...BOTH[0]!, material: red },
        { ...BOTH[1]!, material: blue },
      ]) as never,
  })
  await pipeline(zip, createWriteStream(at('yard.zip')))
  const sized = ['--packing', 'occlusion-rough-metal-y-up', '--size', '32']
  const made = await grist('bake', 'yard.zip', ...sized, '--out', 'maps')
  expect(made).toMatchObject({ code: 0, err: '' })
  expect(made.out).toContain('Two-plates/plate-1: 4 files of Red')
  const model = at('maps/Two-plates')
  expect(readdirSync(model).sort()).toEqual([
    'connections.txt',
    'model.glb',
    'model.mtlx',
    'plate-1',
    'plate-2',
    'record.json',
  ])
  const { sets } = JSON.parse(readFileSync(`${model}/record.json`, 'utf8')) as Pick<ModelRecord, 'sets'>
  expect(sets.map(({ materials: [only] }) => only!.material)).toEqual(['Red', 'Blue'])
  expect((await readModelFile(`${model}/model.glb`, 1)).mesh.parts.map(({ name }) => name)).toEqual([
    'plate 1',
    'plate 2',
  ])

  // The same from a folder, byte for byte; into a used folder only when told.
  mkdirSync(at('yard/models'), { recursive: true })
  writeFileSync(at('yard/models/plates.obj'), plates)
  write('yard/Red.json', material('Red', '#c02010'))
  write('yard/Blue.json', material('Blue', '#1030c0'))
  write('yard/project.json', project(BOTH))
  expect((await grist('bake', 'yard/project.json', ...sized, '--out', 'maps')).err).toContain('not empty')
  expect((await grist('bake', 'yard/project.json', ...sized, '--out', 'again', '--quiet')).code).toBe(0)
  for (const part of ['plate-1', 'plate-2'])
    for (const name of readdirSync(`${model}/${part}`).filter((one) => one.endsWith('.png')))
      expect(
        readFileSync(at(`again/Two-plates/${part}/${name}`)).equals(readFileSync(`${model}/${part}/${name}`)),
      ).toBe(true)
}, 120_000)

test('what a project names and is not there is told, and nothing is left', async () => {
  const asked = ['--packing', 'separate-maps', '--size', '32', '--out', 'none']
  write('Red.json', material('Red', '#c02010'))
  for (const [parts, words] of [
    [[{ part: 'plate 9', material: 'Red.json' }], 'no part "plate 9"'],
    [[{ part: 'plate 1', material: '../Red.json' }], 'inside of its folder'],
    [[{ part: 'plate 1', material: 'Green.json' }], 'Green.json'],
    [[], 'No part of “Yard” has a material'],
  ] as const) {
    write('yard/project.json', project([...parts]))
    const { code, err } = await grist('bake', 'yard/project.json', ...asked)
    expect([code !== 0, err]).toEqual([true, expect.stringContaining(words)])
    expect(existsSync(at('none'))).toBe(false)
  }
}, 60_000)

const texelsOf = async (path: string): Promise<(x: number, y: number) => number[]> => {
  const { data, info } = await sharp(path).raw().toBuffer({ resolveWithObject: true })
  return (x, y) => [...data.subarray((y * info.width + x) * info.channels, (y * info.width + x) * info.channels + 3)]
}

/** Materials for the sheets. */
beforeAll(() => {
  mkdirSync(at('tiles'))
  // Heights of 0.75 come to 5 mm and to 20 mm: as files of one depth to 0.5625 and 0.75.
  const high = (name: string, colour: string, heightMetres: number) =>
    materialFile({
      ...{ name, domain: { kind: 'part' }, heightMetres },
      layers: [
        {
          kind: 'layer',
          id: 'a',
          name: 'A',
          cells: { colour: { source: { value: colour } }, height: { source: { value: 0.75 } } },
        },
      ],
    })
  write('tiles/Red.json', high('Red', '#ff0000', 0.02))
  write('tiles/Blue.json', high('Blue', '#0000ff', 0.08))
})

test('parts that share a tile, IDs of a part and UDIM tiles come to one file set for each tile', async () => {
  // The first part lies left and the second right of the tile, the third in two tiles and in two pieces in the first of them.
  const parts = sheetsObj([
    [[0, 0, 0.45, 1]],
    [[0.55, 0, 1, 1]],
    [
      [0, 0, 0.4, 1],
      [0.6, 0, 1, 1],
      [1.1, 0, 1.9, 1],
    ],
  ])
  writeFileSync(at('tiles/sheets.obj'), parts)
  const model = {
    ...{ name: 'Sheets', mesh: 'sheets.obj', settings: { size: 64, samples: 1, rays: 4 } },
    parts: [
      { part: 'sheet 1', material: 'Red.json' },
      { part: 'sheet 2', material: 'Blue.json' },
      { part: 'sheet 3', material: 'Red.json' },
      { part: 'sheet 3', ids: { kind: 'piece-id', numbers: [2] }, material: 'Blue.json' },
    ],
    joins: [{ part: 'sheet 2', with: { part: 'sheet 1' } }],
  }
  write('tiles/project.json', { ...{ format: 'amber-grist/project', version: 1, name: 'Yard' }, models: [model] })
  const sized = ['--packing', 'separate-maps', '--size', '32']
  const made = await grist('bake', 'tiles/project.json', ...sized, '--vertices', 'colour', '--out', 'tiled')
  expect(made).toMatchObject({ code: 0, err: '' })
  expect(made.out).toContain('Sheets/sheet-1: 8 files of Red, Blue')
  const folder = at('tiled/Sheets')
  const { sets } = JSON.parse(readFileSync(`${folder}/record.json`, 'utf8')) as Pick<ModelRecord, 'sets'>
  expect(sets.map(({ folder: own, udim, collisions }) => [own, udim, collisions.length])).toEqual([
    ['sheet-1', 1001, 0],
    ['sheet-3-1001', 1001, 0],
    ['sheet-3-1002', 1002, 0],
  ])
  const [red, blue] = [
    [255, 0, 0],
    [0, 0, 255],
  ]
  const file = (set: string, map: string): string =>
    `${folder}/${set}/${readdirSync(`${folder}/${set}`).find((name) => name.includes(map))!}`
  const shared = await texelsOf(file('sheet-1', 'colour'))
  expect([shared(15, 8), shared(16, 8)]).toEqual([red, blue])
  const heights = await texelsOf(file('sheet-1', 'height'))
  const [low, tall] = [heights(2, 8)[0]!, heights(30, 8)[0]!]
  expect([Math.abs(low / 255 - 0.5625) < 1 / 255, Math.abs(tall / 255 - 0.75) < 1 / 255]).toEqual([true, true])
  const pieces = await texelsOf(file('sheet-3-1001', 'colour'))
  expect([pieces(2, 8), pieces(30, 8)]).toEqual([red, blue])
  const other = await texelsOf(file('sheet-3-1002', 'colour'))
  expect([other(2, 8), other(30, 8)]).toEqual([red, red])

  // The model has its triangles by tiles, and pictures that parts share once.
  const bytes = readFileSync(`${folder}/model.glb`)
  const { issues } = (await validateBytes(new Uint8Array(bytes))) as {
    issues: { numErrors: number; numWarnings: number }
  }
  expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
  const glb = await new NodeIO().readBinary(new Uint8Array(bytes))
  const materials = glb
    .getRoot()
    .listMeshes()
    .map((mesh) => mesh.listPrimitives().map((one) => one.getMaterial()!))
  expect(materials.map((own) => own.map((one) => one.getName()))).toEqual([['Red'], ['Blue'], ['Red', 'Red']])
  expect(materials[0]![0]!.getBaseColorTexture()).toBe(materials[1]![0]!.getBaseColorTexture())
  const third = materials[2]!.map((one) => one.getBaseColorTexture())
  expect(third[0]).not.toBe(third[1])
  // MaterialX 1.38, "Filename substitutions": <UDIM> stands for the number of the tile.
  const mtlx = readFileSync(`${folder}/model.mtlx`, 'utf8')
  expect(mtlx).toContain('value="sheet-3-&lt;UDIM&gt;/')
  expect(mtlx).toContain('geom="/sheet 2" material="m_Blue_2"')
  const lines = readFileSync(`${folder}/connections.txt`, 'utf8').split('\n')
  expect(lines.filter((line) => line.startsWith('sheet 3\t1002\tcolour\tsheet-3-1002/'))).toHaveLength(1)

  // The colour at vertices, in files that others read: red, blue, and the pieces of the third.
  const group = new OBJLoader().parse(readFileSync(`${folder}/model.obj`, 'utf8'))
  const colours = group.children.map((one) => {
    const { color, uv } = (one as ThreeMesh).geometry.attributes
    expect(uv!.count).toBe(color!.count)
    return Array.from({ length: color!.count / 6 }, (_, quad) => (color!.getX(quad * 6) > 0.5 ? 'red' : 'blue'))
  })
  expect(colours).toEqual([['red'], ['blue'], ['red', 'blue', 'red']])
  const ply = await readModelFile(`${folder}/model.ply`, 1)
  const obj = await readModelFile(`${folder}/model.obj`, 1)
  expect([...ply.mesh.triangles].map((i) => ply.mesh.colours![i * 4]! > 0.5)).toEqual(
    [...obj.mesh.triangles].map((i) => obj.mesh.colours![i * 4]! > 0.5),
  )
  expect(readFileSync(`${folder}/model.mtl`, 'utf8')).toContain('newmtl sheet-3-Red\n')
  const mtl = readFileSync(`${folder}/model.mtl`, 'utf8')
  for (const line of [/map_Kd sheet-1\/.*colour/, /map_Pr sheet-1\/.*roughness/, /norm sheet-3-1001\/.*normal/])
    expect(mtl).toMatch(line)

  // Made again of its record, and one material alone on one tile.
  for (const set of ['sheet-1', 'sheet-3-1001', 'sheet-3-1002']) {
    const path = `tiled/Sheets/${set}/record.json`
    const again = await grist('remake', path, '--mesh', 'tiles/sheets.obj')
    expect([again.code, again.out.match(/^same /gm)?.length]).toEqual([0, 8])
  }
  const whole = await grist('remake', 'tiled/Sheets/record.json', '--mesh', 'tiles/sheets.obj')
  expect([whole.code, whole.out.match(/^same .*sheet-3-1002\//gm)?.length]).toEqual([0, 8])
  const lacking = await grist('remake', 'tiled/Sheets/record.json')
  expect([lacking.code, lacking.err]).toEqual([2, expect.stringContaining('name its model by --mesh')])
  const alone = ['bake', 'tiles/Blue.json', ...sized, '--mesh', 'tiles/sheets.obj', '--part', 'sheet 3']
  expect((await grist(...alone, '--out', 'none')).err).toContain('--tile takes one of: 1001, 1002')
  expect((await grist(...alone, '--tile', '1002', '--out', 'one')).code).toBe(0)
}, 180_000)

test('a sheet of frames turns its dial from frame to frame', async () => {
  write(
    'lamp.json',
    materialFile({
      layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { emission: { source: { value: '#ffffff' } } } }],
      dials: [
        {
          ...{ id: 'time', label: 'Time', kind: 'number', min: 0, max: 16, default: 0, value: 0 },
          drives: [{ layer: 'a', channel: 'emission', field: 'amount', scale: 1 / 16 }],
        },
      ],
    }),
  )
  const made = await grist('bake', 'lamp.json', '--packing', 'frames', '--size', '32', '--out', 'frames')
  expect(made).toMatchObject({ code: 0, err: '' })
  const texels = await texelsOf(at(`frames/${readdirSync(at('frames')).find((name) => name.endsWith('.png'))!}`))
  // Sixteen frames, row by row: each brighter than the one before.
  const reds = Array.from({ length: 16 }, (_, k) => texels((k % 4) * 8 + 3, Math.floor(k / 4) * 8 + 3)[0]!)
  expect(reds[0]).toBe(0)
  expect(reds.every((red, k) => k === 0 || red > reds[k - 1]!)).toBe(true)
}, 60_000)

test('parts over one another in shared files and IDs without a material are told, in the record and by check', async () => {
  writeFileSync(
    at('tiles/over.obj'),
    sheetsObj([
      [[0, 0, 0.6, 1]],
      [[0.4, 0, 1, 1]],
      [
        [0, 0, 0.4, 1],
        [0.6, 0, 1, 1],
      ],
    ]),
  )
  const model = {
    ...{ name: 'Over', mesh: 'over.obj', settings: { size: 64, samples: 1, rays: 4 } },
    parts: [
      { part: 'sheet 1', material: 'Red.json' },
      { part: 'sheet 2', material: 'Blue.json' },
      { part: 'sheet 3', ids: { kind: 'piece-id', numbers: [2] }, material: 'Blue.json' },
    ],
    joins: [{ part: 'sheet 2', with: { part: 'sheet 1' } }],
  }
  write('tiles/over.json', { ...{ format: 'amber-grist/project', version: 1, name: 'Yard' }, models: [model] })
  const sized = ['--packing', 'separate-maps', '--size', '32', '--out', 'over']
  expect((await grist('bake', 'tiles/over.json', ...sized, '--vertices', 'gloom')).err).toContain('no channel "gloom"')
  const { out, err } = await grist('bake', 'tiles/over.json', ...sized)
  expect(err).toBe('')
  const overlap = 'sheet 1 and sheet 2 share files and lie over one another in UVs, at '
  const bare = 'sheet 3: Piece 1 has no material. Files show the nearest there.'
  expect(out).toContain(`▲ Over/sheet-1: ${overlap}`)
  expect(out).toContain(`▲ Over/sheet-3: ${bare}`)
  const checked = await grist('check', 'over/Over', '--json')
  const found = JSON.parse(checked.out) as { set: string; rule: string; message: string }[]
  const of = (rule: string) => found.filter((one) => one.rule === rule).map(({ set, message }) => `${set}: ${message}`)
  expect(of('set-collisions')).toEqual([expect.stringContaining(`sheet-1: ${overlap}`)])
  expect(of('ids-without-material')).toEqual([`sheet-3: ${bare}`])
  // The model beside the maps tells how a part with files of its own is laid out.
  expect((await grist('check', 'tiled/Sheets')).out).not.toContain('set-collisions')
  write('over/Over/record.json', { format: 'amber-grist/model-record', version: 2 })
  expect(await grist('check', 'over/Over')).toMatchObject({ code: 1, err: expect.stringContaining('model') })
})
