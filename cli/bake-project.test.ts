import { createWriteStream, existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { pipeline } from 'node:stream/promises'
import { parseDocument } from '#core/document/document'
import { packMaterials } from '#runtime/node/material-file'
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
  expect(readdirSync(model).sort()).toEqual(['model.glb', 'plate-1', 'plate-2', 'record.json'])
  const record = JSON.parse(readFileSync(`${model}/record.json`, 'utf8')) as { parts: { material: string }[] }
  expect(record.parts.map((one) => one.material)).toEqual(['Red', 'Blue'])
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
