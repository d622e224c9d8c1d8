import type { Document } from '@gltf-transform/core'
import { NodeIO } from '@gltf-transform/core'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { validateBytes } from 'gltf-validator'
import sharp from 'sharp'
import { parseDocument } from '#core/document/document'
import type { MaterialDocument } from '#core/document/document'
import { metresOf, partOf } from '#core/document/domain'
import { STANDARD_SETTINGS } from '#core/mesh/bake-settings'
import { settingsOfBaked } from '#core/mesh/mesh-data-record'
import type { DeliveryRecord } from '#core/texture/record'
import { parseRecord } from '#core/texture/record'
import { meshOf } from '#core/mesh/testing/bake-here'
import { sheetsObj } from '#core/mesh/testing/shapes'
import { packings } from '#core/texture/packings/packings.generated'
import type { ProjectParts } from '../../contracts/parts'
import type { MeshRun } from '../../contracts/run'
import { openDocument } from '../documents/documents.server'
import { modelZip, listModelDeliveries } from '../models/model-deliveries.server'
import { addMadeModel, openModel, setModelDeleted, shareFiles } from '../models/models.server'
import { addDocument } from '../projects/materials.server'
import { createProject, duplicateProject, openProject } from '../projects/projects.server'
import { enqueueMesh, findRun } from '../runs/runs.server'
import { startWorker } from '../runs/worker.server'
import { database } from '../database/database.server'
import { ownDatabase } from '../testing/own-database'
import { asPlaced, layerUp, placeMaterial, placeNewMaterial, placedOn, projectParts } from './placements.server'

let worker: Awaited<ReturnType<typeof startWorker>>
afterAll(() => worker.close())
ownDatabase()
beforeAll(async () => void (worker = await startWorker('test', 2)))

const SETTINGS = { ...STANDARD_SETTINGS, size: 64, samples: 1, rays: 4 } as const
const packing = packings.find(({ name }) => name === 'occlusion-rough-metal-y-up')!

/** A square metre, upright at z = 0, that fills half of its tile each way. */
const wall = () =>
  meshOf(`o Wall
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
vt 0.25 0.25
vt 0.75 0.25
vt 0.75 0.75
vt 0.25 0.75
f 1/1 2/2 3/3 4/4
`)

const material = (more: object = {}): MaterialDocument =>
  parseDocument({
    format: 'amber-grist/material',
    version: 2,
    name: 'Washed',
    domain: { kind: 'part' },
    nodes: { up: { type: 'axis-gradient', params: { axis: 'y', floor: 0 } } },
    layers: [
      {
        kind: 'layer',
        id: 'wash',
        name: 'Wash',
        cells: {
          colour: { source: { value: '#c08040' } },
          roughness: { source: { node: 'up.gradient' } },
        },
      },
    ],
    ...more,
  })

async function ended(id: string): Promise<MeshRun> {
  for (const began = Date.now(); Date.now() - began < 60_000;) {
    const run = (await findRun(id)) as MeshRun
    if (run.endedAt) return run
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
  throw new Error('not ended')
}

async function setting() {
  const project = await createProject('Parts')
  const model = await addMadeModel(project, 'Wall', { low: wall(), high: wall() }, SETTINGS)
  const document = await addDocument(project, material())
  return { project, model, document }
}
const bake = (model: string, kinds: readonly string[]) =>
  enqueueMesh(model, { do: 'bake', cells: kinds.map((kind) => ({ part: 0, kind })), settings: SETTINGS }).then(ended)

test('a material is put on a part, is evaluated there with what is known of it, and taken off', async () => {
  const { project, model, document } = await setting()
  expect(partOf(await asPlaced(document, material()))).toBeNull()
  await placeMaterial(project, { model, part: 0 }, document)
  const [listed] = await projectParts(project)
  expect(listed!.parts[0]).toMatchObject({ material: { id: document, name: 'Washed', head: 0 }, stale: [], drafts: [] })
  const placed = await asPlaced(document, material())
  expect(partOf(placed)).toMatchObject({ name: 'Wall', part: 0, box: { min: [0, 0, 0], max: [1, 1, 0] }, data: {} })
  // A square metre over half a unit of UV each way.
  expect(metresOf(placed)).toEqual([2, 2])
  expect((await placedOn(await openModel(model))).onPart).toEqual({ 0: document })
  await placeMaterial(project, { model, part: 0 }, null)
  expect(partOf(await asPlaced(document, material()))).toBeNull()
})

test('what is not of the project, or no part, is refused; another material takes the place of the first', async () => {
  const { project, model, document } = await setting()
  const other = await createProject('Elsewhere')
  const stranger = await addDocument(other, material())
  const refused = { status: 404 }
  await expect(placeMaterial(project, { model, part: 0 }, stranger)).rejects.toMatchObject(refused)
  await expect(placeMaterial(other, { model, part: 0 }, document)).rejects.toMatchObject(refused)
  await expect(placeMaterial(project, { model, part: 1 }, document)).rejects.toMatchObject(refused)
  const second = await addDocument(project, material({ name: 'Second' }))
  await placeMaterial(project, { model, part: 0 }, document)
  await placeMaterial(project, { model, part: 0 }, second)
  expect((await projectParts(project))[0]!.parts[0]!.material?.id).toBe(second)
  await setModelDeleted(model, true)
  expect(await projectParts(project)).toEqual([])
})

test('a new material for a part bears its name, lies on it at once and is for parts; there is none for a part that is not there', async () => {
  const { project, model, document } = await setting()
  await placeMaterial(project, { model, part: 0 }, document)
  const page = await openModel(model)
  const made = await placeNewMaterial(page, 0)
  expect(await placedOn(page)).toMatchObject({ onPart: { 0: made }, onIds: [] })
  expect((await openDocument(made)).document).toMatchObject({ name: 'Wall', domain: { kind: 'part' } })
  const materials = () => database()('documents').where({ project_id: project }).pluck<string[]>('id')
  const before = await materials()
  await expect(placeNewMaterial(page, 1)).rejects.toMatchObject({ status: 404 })
  expect(await materials()).toEqual(before)
})

test('several materials on a part become one in layers that takes their place', async () => {
  const { project, model, document } = await setting()
  const page = () => openModel(model)
  await placeMaterial(project, { model, part: 0 }, document)
  await expect(layerUp(await page(), 0)).rejects.toMatchObject({ status: 422 })
  const second = await addDocument(project, material({ name: 'Second' }))
  await placeMaterial(project, { model, part: 0, ids: { kind: 'piece-id', numbers: [1] } }, second)
  const made = await layerUp(await page(), 0)
  expect(await placedOn(await page())).toMatchObject({ onPart: { 0: made }, onIds: [] })
  const { document: layered } = await openDocument(made)
  expect(layered.layers.map(({ name, mask }) => [name, mask.length])).toEqual([
    ['Washed', 0],
    ['Second', 1],
  ])
  // Those that it was made of are there still.
  expect((await openProject(project)).documents.map((one) => one.name)).toEqual(
    expect.arrayContaining(['Washed', 'Second']),
  )
  // What cannot be one is told, and stays as it is.
  const other = await addDocument(
    project,
    material({ name: 'Third', channels: { glow: { type: 'colour', backdrop: '#000000' } } }),
  )
  const grey = await addDocument(
    project,
    material({ name: 'Fourth', channels: { glow: { type: 'grey', backdrop: 0 } } }),
  )
  await placeMaterial(project, { model, part: 0 }, other)
  await placeMaterial(project, { model, part: 0, ids: { kind: 'piece-id', numbers: [1] } }, grey)
  await expect(layerUp(await page(), 0)).rejects.toMatchObject({ status: 422 })
  expect((await placedOn(await page())).onIds).toHaveLength(1)
})

test('a copy of a project has its materials on the same parts', async () => {
  const { project, model, document } = await setting()
  await placeMaterial(project, { model, part: 0 }, document)
  const copy = await duplicateProject(project)
  const [{ parts, id }] = (await projectParts(copy)) as [Awaited<ReturnType<typeof projectParts>>[0]]
  expect(id).not.toBe(model)
  expect(parts[0]!.material).toEqual({
    id: (await openProject(copy)).documents.find(({ name }) => name === 'Washed')!.id,
    name: 'Washed',
    head: 0,
  })
})

test('all parts are delivered in one ZIP: maps, records, and a model that the glTF validator finds nothing wrong with', async () => {
  const { project, model, document } = await setting()
  const deliver = () => enqueueMesh(model, { do: 'deliver', packing, width: 64, dither: false }).then(ended)
  expect(await deliver()).toMatchObject({ state: 'failed', error: expect.stringContaining('No part of this model') })
  await placeMaterial(project, { model, part: 0 }, document)
  expect(await deliver()).toMatchObject({
    state: 'failed',
    error: expect.stringContaining('No position has been baked'),
  })
  expect(await bake(model, ['position', 'normal', 'occlusion'])).toMatchObject({ state: 'done' })
  expect(await deliver()).toMatchObject({ state: 'done' })
  const [listed] = await listModelDeliveries(model)
  expect(listed).toMatchObject({ packing: packing.title, width: 64, sets: 1 })

  const folder = mkdtempSync(join(tmpdir(), 'model-'))
  try {
    const response = await modelZip(new Request('http://x/'), listed!.id)
    writeFileSync(join(folder, 'a.zip'), Buffer.from(await response.arrayBuffer()))
    execFileSync('python3', ['-m', 'zipfile', '-e', join(folder, 'a.zip'), folder])
    const [part] = readdirSync(folder).filter((name) => !name.includes('.'))
    const names = readdirSync(join(folder, part!))
    expect(names).toEqual(expect.arrayContaining(['Washed_normal.png', 'maps.txt', 'record.json']))
    const record = JSON.parse(readFileSync(join(folder, 'record.json'), 'utf8')) as { sets: object[] }
    // How what it read was baked: with it the maps can be made again.
    const own = JSON.parse(readFileSync(join(folder, part!, 'record.json'), 'utf8')) as DeliveryRecord
    const baked = partOf(parseRecord(own).document as MaterialDocument)!.baked!
    expect(Object.keys(baked).sort()).toEqual(['normal', 'occlusion', 'position'])
    const [{ settings, kinds }, ...others] = settingsOfBaked(baked) as [ReturnType<typeof settingsOfBaked>[0]]
    const asked = Object.entries(SETTINGS).filter(([, value]) => value !== null)
    expect([kinds.length, others, settings]).toEqual([3, [], expect.objectContaining(Object.fromEntries(asked))])
    const materials = [{ part: 0, name: 'Wall', material: 'Washed' }]
    expect(record.sets).toEqual([expect.objectContaining({ materials, folder: part, udim: 1001 })])

    const glb = readFileSync(join(folder, 'model.glb'))
    const { issues } = await validateBytes(new Uint8Array(glb))
    expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
    const read: Document = await new NodeIO().readBinary(new Uint8Array(glb))
    const [worn] = read.getRoot().listMaterials()
    expect(worn!.getName()).toBe('Washed')
    const [primitive] = read.getRoot().listMeshes()[0]!.listPrimitives()
    expect(primitive!.getAttribute('TANGENT')).not.toBeNull()
    // The very file of the maps, in its slot: roughness grows from the foot to the top.
    const surface = Buffer.from(worn!.getMetallicRoughnessTexture()!.getImage()!)
    expect(surface.equals(readFileSync(join(folder, part!, 'Washed_occlusion-rough-metal.png')))).toBe(true)
    const { data, info } = await sharp(surface).raw().toBuffer({ resolveWithObject: true })
    const uv = primitive!.getAttribute('TEXCOORD_0')!
    const position = primitive!.getAttribute('POSITION')!
    for (let i = 0; i < position.getCount(); i++) {
      const y = position.getElement(i, [] as number[])[1]!
      const [u, v] = uv.getElement(i, [] as number[]) as [number, number]
      const at = (w: number): number => Math.min(47, Math.floor(w * 64))
      const roughness = data[(at(v) * info.width + at(u)) * info.channels + 1]! / 255
      expect(Math.abs(roughness - y!)).toBeLessThan(0.05)
    }
  } finally {
    rmSync(folder, { recursive: true })
  }
})

/** The first sheet lies in two tiles, in two pieces; the second over the right half of the first tile. */
const tiledSheets = () =>
  meshOf(
    sheetsObj([
      [
        [0, 0, 0.4, 1],
        [1.1, 0, 1.9, 1],
      ],
      [[0.6, 0, 1, 1]],
    ]),
  )

async function tiledSetting() {
  const project = await createProject('Tiles')
  const model = await addMadeModel(project, 'Sheets', { low: tiledSheets(), high: null }, SETTINGS)
  const [first, second] = [
    await addDocument(project, material({ nodes: {}, layers: [plainLayer('#c02010')] })),
    await addDocument(project, material({ name: 'Second', nodes: {}, layers: [plainLayer('#1030c0')] })),
  ]
  return { project, model, first, second }
}
const plainLayer = (colour: string) => ({
  ...{ kind: 'layer', id: 'a', name: 'A' },
  cells: { colour: { source: { value: colour } } },
})
const pieces = (...numbers: number[]) => ({ kind: 'piece-id' as const, numbers })

test('materials on IDs of a part: numbers go over to whoever comes later, and a copy takes them along', async () => {
  const { project, model, first, second } = await tiledSetting()
  const idsOf = async () =>
    (await placedOn(await openModel(model))).onIds.map(({ ids, material: id }) => [ids.numbers, id])
  const on = { model, part: 0 }
  await placeMaterial(project, { ...on, ids: pieces(1, 2) }, first)
  await placeMaterial(project, { ...on, ids: pieces(2, 3) }, second)
  expect(await idsOf()).toEqual([
    [[1], first],
    [[2, 3], second],
  ])
  // The same once more adds to what it has; other kinds are other places.
  await placeMaterial(project, { ...on, ids: pieces(4) }, first)
  await placeMaterial(project, { ...on, ids: { kind: 'island-id', numbers: [1] } }, first)
  expect(await idsOf()).toEqual([
    [[1, 4], first],
    [[2, 3], second],
    [[1], first],
  ])
  await placeMaterial(project, { ...on, ids: pieces(1, 4) }, null)
  await placeMaterial(project, { ...on, ids: pieces(3) }, null)
  expect(await idsOf()).toEqual([
    [[2], second],
    [[1], first],
  ])
  // What lies on all of the part comes and goes by itself.
  await placeMaterial(project, on, first)
  await placeMaterial(project, on, null)
  expect(await idsOf()).toHaveLength(2)
  await shareFiles(model, 1, 0)
  // Parts in several tiles come once for each; a material on IDs alone is evaluated on the part too.
  const [{ parts }] = (await projectParts(project)) as [ProjectParts]
  expect(parts.map(({ part, udim, onIds }) => [part, udim, onIds.length])).toEqual([
    [0, 1001, 2],
    [0, 1002, 2],
    [1, undefined, 0],
  ])
  expect(partOf(await asPlaced(second, material()))).toMatchObject({ part: 0, udim: 1001 })
  expect(partOf(await asPlaced(second, material(), { ...on, udim: 1002 }))).toMatchObject({ udim: 1002 })
  const copied = (await projectParts(await duplicateProject(project)))[0]!
  expect(copied.parts[0]!.onIds.map(({ ids, material: { name } }) => [ids.numbers, name])).toEqual([
    [[2], 'Second'],
    [[1], 'Washed'],
  ])
  expect((await openModel(copied.id)).joins).toEqual({ 1: 0 })
  // Another mesh may have fewer parts: whoever joined one that is gone has files of its own again.
  await database()('models')
    .where({ id: model })
    .update({ joins: JSON.stringify({ 1: 7, 9: 0 }) })
  expect((await openModel(model)).joins).toEqual({})
})

test('what shares a tile is delivered as one file set, and again kept as it is', async () => {
  const { project, model, first, second } = await tiledSetting()
  const deliver = () =>
    enqueueMesh(model, { do: 'deliver', packing, width: 32, dither: false, vertices: 'colour' }).then(ended)
  await placeMaterial(project, { model, part: 0 }, first)
  await placeMaterial(project, { model, part: 0, ids: pieces(2) }, second)
  await placeMaterial(project, { model, part: 1 }, second)
  await shareFiles(model, 1, 0)
  const cells = [0, 1].flatMap((part) => ['normal', 'occlusion', 'piece-id'].map((kind) => ({ part, kind })))
  expect(await enqueueMesh(model, { do: 'bake', cells, settings: SETTINGS }).then(ended)).toMatchObject({
    state: 'done',
  })
  expect(await deliver()).toMatchObject({ state: 'done' })
  const [listed] = await listModelDeliveries(model)
  expect(listed!.sets).toBe(2)
  const folder = mkdtempSync(join(tmpdir(), 'model-'))
  try {
    const response = await modelZip(new Request('http://x/'), listed!.id)
    writeFileSync(join(folder, 'a.zip'), Buffer.from(await response.arrayBuffer()))
    execFileSync('python3', ['-m', 'zipfile', '-e', join(folder, 'a.zip'), folder])
    const reds = async (set: string): Promise<boolean[]> => {
      const path = join(
        folder,
        set,
        readdirSync(join(folder, set)).find((name) => name.includes('colour'))!,
      )
      const { data, info } = await sharp(path).raw().toBuffer({ resolveWithObject: true })
      return [2, 29].map((x) => data[(16 * 32 + x) * info.channels]! > data[(16 * 32 + x) * info.channels + 2]!)
    }
    // Colour is named for the OBJ though opacity lies beside it, one picture for each part.
    const mtl = readFileSync(join(folder, 'model.mtl'), 'utf8')
    expect(mtl.match(/^map_Kd sheet-1-1001\/.*colour\.png$/gm)).toHaveLength(2)
    // The first piece is red, the second part blue; the second piece, in the next tile, blue.
    expect([await reds('sheet-1-1001'), await reds('sheet-1-1002')]).toEqual([
      [true, false],
      [false, false],
    ])
  } finally {
    rmSync(folder, { recursive: true })
  }
  // Nothing has changed: the files are taken as they were.
  const again = await deliver()
  expect(again.log.map(({ text }) => text).join(' ')).toContain('sheet-1-1001: colour kept, normal kept')
}, 60_000)
