import { createHash } from 'node:crypto'
import sharp from 'sharp'
import { Document, NodeIO } from '@gltf-transform/core'
import { STANDARD_SETTINGS, optionsFor } from '#core/mesh/bake-settings'
import { meshDataBytes } from '#core/mesh/mesh-data-raster'
import { bakerNamed } from '#core/mesh/mesh-data'
import type { LayoutChange } from '#core/mesh/layout-change'
import { blockObj } from '#core/mesh/testing/shapes'
import type { MeshCell, MeshRun } from '../../contracts/run'
import { importImage, listAssets } from '../assets/assets.server'
import { database } from '../database/database.server'
import { purge } from '../database/purge.server'
import { createProject, duplicateProject } from '../projects/projects.server'
import { cancelRun, enqueueMesh, findRun } from '../runs/runs.server'
import { startWorker } from '../runs/worker.server'
import { spooled } from '../storage/uploads.server'
import { ownDatabase } from '../testing/own-database'
import { meshDataFile } from './mesh-data-file.server'
import { bringInMeshData, keptMeshData, meshDataRecord, meshDataSwatch, missedPicture } from './mesh-data.server'
import {
  addModel,
  boxMesh,
  keptMesh,
  layOutAsCame,
  listModels,
  modelWithVertexColours,
  openModel,
  removeCompanion,
  replaceMesh,
  setBakeSettings,
  setModelDeleted,
} from './models.server'
import type { MeshRole } from './models.server'

let worker: Awaited<ReturnType<typeof startWorker>>
afterAll(() => worker.close())
ownDatabase()
beforeAll(async () => void (worker = await startWorker('test', 2)))

async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  yield bytes
}
const sent = <T>(text: string | Uint8Array, work: (file: Parameters<Parameters<typeof spooled>[3]>[0]) => Promise<T>) =>
  spooled('here', once(typeof text === 'string' ? Buffer.from(text) : text), undefined, work) as Promise<T>
const add = (project: string, text: string | Uint8Array, name: string) =>
  sent(text, (file) => addModel(project, file, name))
const replace = (id: string, role: MeshRole, text: string, name: string) =>
  sent(text, (file) => replaceMesh(id, role, file, name))

async function ended(id: string): Promise<MeshRun> {
  for (const began = Date.now(); Date.now() - began < 60_000;) {
    const run = (await findRun(id)) as MeshRun
    if (run.endedAt) return run
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
  throw new Error(`not ended: ${JSON.stringify(await findRun(id))}`)
}
const SMALL = { ...STANDARD_SETTINGS, size: 256, samples: 1, rays: 4, padding: 2 } as const
const bake = async (id: string, cells: readonly MeshCell[], settings: typeof STANDARD_SETTINGS = SMALL) =>
  ended(await enqueueMesh(id, { do: 'bake', cells: [...cells], settings }))
const fresh = async (id: string) => (await openModel(id)).data.map(({ kind, fresh }) => [kind, fresh])

/** A square on the ground with the whole tile, so many metres up. */
const square = (up = 0, name = 'plate') =>
  `o ${name}\nv 0 ${up} 1\nv 1 ${up} 1\nv 1 ${up} 0\nv 0 ${up} 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n`

test('a file becomes a model: its parts and layout are known, and its mesh is kept by its content', async () => {
  const project = await createProject('Locks')
  const id = await add(project, blockObj(1, 2, 3), 'Block of steel.obj')
  const model = await openModel(id)
  expect(model).toMatchObject({
    name: 'Block of steel',
    fileName: 'Block of steel.obj',
    asCame: true,
    high: null,
    data: [],
  })
  expect(model.summary).toMatchObject({
    triangles: 12,
    uvSets: 1,
    colours: false,
    box: { min: [0, 0, 0], max: [1, 2, 3] },
  })
  expect(model.summary.parts[0]).toMatchObject({ name: 'block', material: 'steel', layouts: [{ islands: 6 }] })
  expect((await keptMesh(model.mesh)).triangles).toHaveLength(36)
  // The same file once more is another model of the same mesh.
  const twin = await add(project, blockObj(1, 2, 3), 'again.obj')
  expect((await openModel(twin)).mesh).toBe(model.mesh)
  expect(await listModels(project)).toMatchObject([
    { name: 'Block of steel', triangles: 12, parts: 1, swatches: [] },
    { name: 'again' },
  ])
})

test.each([
  ['an ending that is none of ours', 'notes.txt', 'hello', 'Expected a model as'],
  ['a face of too few corners', 'b.obj', 'v 0 0 0\nf 1 1\n', 'b.obj'],
  ['a number that is none', 'n.obj', 'v 0 0 nan\nv 1 0 0\nv 0 1 0\nf 1 2 3\n', 'line 1'],
  ['no triangles', 'e.obj', 'v 0 0 0\n', 'no triangles'],
  [
    'a glTF that names files which are not there',
    'g.gltf',
    '{"asset":{"version":"2.0"},"buffers":[{"uri":"x.bin","byteLength":4}]}',
    'x.bin',
  ],
])('%s is refused in words, and nothing is kept', async (_, name, text, words) => {
  const project = await createProject('Broken')
  const before = await database()('meshes').count('* as n')
  await expect(add(project, text, name)).rejects.toThrow(words)
  expect([await listModels(project), await database()('meshes').count('* as n')]).toEqual([[], before])
})

test('textures of a file’s own materials become images of the project, named by their roles', async () => {
  const project = await createProject('Textured')
  const png = await sharp({ create: { width: 4, height: 4, channels: 3, background: '#804020' } })
    .png()
    .toBuffer()
  const document = new Document()
  const buffer = document.createBuffer()
  const accessor = (values: number[]) =>
    document.createAccessor().setType('VEC3').setArray(Float32Array.from(values)).setBuffer(buffer)
  const rust = document.createTexture('rust').setImage(png).setMimeType('image/png')
  const broken = document
    .createTexture('broken')
    .setImage(new Uint8Array([1, 2, 3]))
    .setMimeType('image/png')
  const material = document.createMaterial('Iron').setBaseColorTexture(rust).setOcclusionTexture(broken)
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor([0, 0, 0, 1, 0, 0, 0, 1, 0]))
    .setMaterial(material)
  document.createScene().addChild(document.createNode('plate').setMesh(document.createMesh().addPrimitive(primitive)))
  const id = await add(project, await new NodeIO().writeBinary(document), 'Plate.glb')
  expect((await openModel(id)).summary.parts[0]).toMatchObject({ name: 'plate', material: 'Iron' })
  const here = (await listAssets(project)).filter((one) => one.here)
  expect(here.map(({ name, width }) => [name, width])).toEqual([['Plate Iron baseColor.png', 4]])
})

test('mesh data are baked on the queue, kept with a record, and stale as soon as what they come from changes', async () => {
  const project = await createProject('Plates')
  const id = await add(project, square(), 'plate.obj')
  await setBakeSettings(id, SMALL)
  const cells = ['position', 'occlusion', 'curvature', 'part-id'].map((kind) => ({ part: 0, kind }))
  expect(await bake(id, cells)).toMatchObject({ state: 'done', subject: 'plate', progress: 1 })
  expect(await fresh(id)).toEqual([
    ['curvature', true],
    ['occlusion', true],
    ['part-id', true],
    ['position', true],
  ])
  const place = { part: 0, kind: 'position', udim: 1001 }
  const field = await keptMeshData(id, place)
  // The middle of the texel in the third row and fifth column; v runs along z.
  expect([0, 1, 2].map((k) => field.planes[k]![2 * 256 + 4]!)).toEqual(
    [4.5 / 256, 0, 2.5 / 256].map((v) => expect.closeTo(v, 5)),
  )
  expect(await meshDataRecord(id, place)).toMatchObject({
    part: 'plate',
    place,
    settings: { size: 256, samples: 1 },
    sha256: createHash('sha256')
      .update(meshDataBytes(bakerNamed('position'), field))
      .digest('hex'),
  })
  expect((await sharp(await meshDataSwatch(id, place)).metadata()).width).toBe(96)
  // Rays matter to occlusion alone, size to all; back again, and what was made is what is wanted.
  await setBakeSettings(id, { ...SMALL, rays: 5 })
  expect((await fresh(id)).filter(([, is]) => !is)).toEqual([['occlusion', false]])
  await setBakeSettings(id, { ...SMALL, size: 512 })
  expect((await fresh(id)).every(([, is]) => !is)).toBe(true)
  await setBakeSettings(id, SMALL)
  expect((await fresh(id)).every(([, is]) => is)).toBe(true)
  // What is fresh is not made again.
  const made = (await openModel(id)).data.map(({ madeAt }) => madeAt)
  expect(await bake(id, cells)).toMatchObject({ state: 'done' })
  expect((await openModel(id)).data.map(({ madeAt }) => madeAt)).toEqual(made)
  // Another mesh in its place: settings stay, mesh data are stale.
  await replace(id, 'low', square(0.5), 'moved.obj')
  expect(await openModel(id)).toMatchObject({ fileName: 'moved.obj', settings: SMALL, asCame: true })
  expect((await fresh(id)).every(([, is]) => !is)).toBe(true)
})

test('a high twin gives heights; what it is not met at is told, and shown in a picture; a cage must fit', async () => {
  const project = await createProject('Twins')
  const id = await add(project, square(), 'low.obj')
  await replace(id, 'high', 'o plate_high\nv 0 0.01 1\nv 0.5 0.01 1\nv 0.5 0.01 0\nv 0 0.01 0\nf 1 2 3 4\n', 'high.obj')
  expect((await openModel(id)).high).toMatchObject({ name: 'high.obj', summary: { triangles: 2 } })
  const run = await bake(id, [{ part: 0, kind: 'height' }])
  expect(run.log.at(-1)!.text).toContain('rays missed the high twin')
  const [data] = (await openModel(id)).data
  expect(data).toMatchObject({ kind: 'height', missed: 256 * 128 })
  const { data: pixels, info } = await sharp(await missedPicture(id, { part: 0, kind: 'height', udim: 1001 }))
    .raw()
    .toBuffer({ resolveWithObject: true })
  expect([info.width, pixels[(128 * 256 + 40) * 4 + 3], pixels[(128 * 256 + 200) * 4 + 3]]).toEqual([256, 0, 255])
  await expect(replace(id, 'cage', blockObj(1, 1, 1), 'cage.obj')).rejects.toThrow('Expected 2 but this has 12')
  await replace(id, 'cage', square(0.2), 'cage.obj')
  expect((await openModel(id)).cage).toMatchObject({ name: 'cage.obj' })
  await removeCompanion(id, 'cage')
  await removeCompanion(id, 'high')
  expect(await openModel(id)).toMatchObject({ high: null, cage: null })
  // Without a twin it cannot be made; the run says so.
  expect(await bake(id, [{ part: 0, kind: 'height' }], { ...SMALL, rays: 3 })).toMatchObject({
    state: 'failed',
    error: expect.stringContaining('made of a high twin'),
  })
})

test('the layout is cured on the queue, and leads back to that of the file', async () => {
  const project = await createProject('Layouts')
  const id = await add(project, blockObj(1, 2, 3), 'block.obj')
  const before = await openModel(id)
  const change: LayoutChange = { cure: 'unwrap', parts: [0], uvSet: 0, size: 256, spacing: 4 }
  expect(await ended(await enqueueMesh(id, { do: 'lay out', change }))).toMatchObject({ state: 'done' })
  const after = await openModel(id)
  expect(after).toMatchObject({ asCame: false, summary: { triangles: 12, uvSets: 2 } })
  expect(after.summary.parts[0]!.layouts[0]).toMatchObject({ overlappingPairs: 0, mirroredTriangles: 0 })
  const tight = { ...change, spacing: 256 }
  expect(await ended(await enqueueMesh(id, { do: 'lay out', change: tight }))).toMatchObject({
    state: 'failed',
    error: expect.stringContaining('spacing'),
  })
  expect((await openModel(id)).mesh).toBe(after.mesh)
  await layOutAsCame(id)
  expect(await openModel(id)).toMatchObject({ asCame: true, mesh: before.mesh, settings: { outside: 'tiles' } })
  // All six sides have the whole square: five are moved, and what lies beyond the first tile repeats it.
  const shift: LayoutChange = { ...change, cure: 'shift' }
  expect(await ended(await enqueueMesh(id, { do: 'lay out', change: shift }))).toMatchObject({ state: 'done' })
  expect(await openModel(id)).toMatchObject({
    settings: { outside: 'repeats' },
    summary: { parts: [{ layouts: [{ overlappingPairs: 0, tiles: [1001, 1002, 1003, 1004, 1005, 1006] }] }] },
  })
})

test('a bake is cancelled, keeps what was done, and goes on from there when it is tried again', async () => {
  const project = await createProject('Long')
  const id = await add(project, square(), 'plate.obj')
  const settings = { ...SMALL, size: 1024, samples: 4, rays: 4096 } as const
  await setBakeSettings(id, settings)
  const cells = [
    { part: 0, kind: 'part-id' },
    { part: 0, kind: 'occlusion' },
  ]
  const run = await enqueueMesh(id, { do: 'bake', cells, settings })
  for (;;) {
    const now = (await findRun(run)) as MeshRun
    expect(now.endedAt).toBeNull()
    if (now.detail?.kinds.includes('occlusion') && now.detail.cellsDone === 1) break
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
  await cancelRun(run)
  expect(await ended(run)).toMatchObject({ state: 'cancelled' })
  expect(await fresh(id)).toEqual([['part-id', true]])
}, 60_000)

test('what nobody waits for lets what somebody does go before it, and goes on with what it lacks', async () => {
  const project = await createProject('Behind')
  const id = await add(project, square(), 'plate.obj')
  const settings = { ...SMALL, size: 512, samples: 4, rays: 1024 } as const
  const cells = ['part-id', 'occlusion', 'bent-normal'].map((kind) => ({ part: 0, kind }))
  const long = await enqueueMesh(id, { do: 'bake', cells, settings }, { lowPriority: true })
  const now = async (run: string) => (await findRun(run)) as MeshRun
  while ((await now(long)).detail?.cellsDone !== 1) await new Promise((resolve) => setTimeout(resolve, 50))
  const draft = await enqueueMesh(id, { do: 'bake', cells: [{ part: 0, kind: 'position' }], settings: SMALL })
  expect(await ended(draft)).toMatchObject({ state: 'done', attempt: 1 })
  expect((await now(long)).endedAt).toBeNull()
  const { state, attempt, log } = await ended(long)
  expect([state, attempt]).toEqual(['done', 2])
  const told = log.map(({ text }) => text)
  expect(told).toContain('Something that somebody waits for goes before it; what is made is kept.')
  // The first of its three was made before.
  expect(told.at(-1)).toBe('2 sets of mesh data made.')
}, 60_000)

test('an image stands for a kind until the mesh is another; a model gives files and vertex colours', async () => {
  const project = await createProject('Brought')
  const id = await add(project, square(), 'plate.obj')
  const { mesh, summary, settings } = await openModel(id)
  const png = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#ff0000' } })
    .png()
    .toBuffer()
  const { sha256 } = await importImage(once(png), 'mask.png')
  const place = { part: 0, kind: 'thickness', udim: 1001 }
  const meaning = { range: [0, 2] as [number, number], flipY: false, encoded: false, tolerance: 8 }
  const scale = { options: optionsFor(settings, boxMesh(summary)), box: summary.box }
  await bringInMeshData(id, mesh, scale, place, sha256, meaning)
  expect(await openModel(id)).toMatchObject({ data: [{ kind: 'thickness', width: 8, fresh: true, missed: 0 }] })
  expect((await keptMeshData(id, place)).planes[0]![9]).toBe(2)
  await expect(bringInMeshData(id, mesh, scale, place, '0'.repeat(64), meaning)).rejects.toMatchObject({ status: 404 })
  // However it would be baked, it stands; another mesh makes it stale.
  await setBakeSettings(id, { ...SMALL, rays: 9 })
  expect(await fresh(id)).toEqual([['thickness', true]])
  const coloured = await modelWithVertexColours(id, 'thickness')
  expect([...coloured.colours!.subarray(0, 4)]).toEqual([1, 1, 1, 1])
  const file = await meshDataFile(id, place)
  expect(file.headers.get('Content-Disposition')).toContain('plate_plate_thickness.exr')
  // The first four bytes of an OpenEXR file (Technical Introduction to OpenEXR).
  expect([...new Uint8Array(await file.arrayBuffer()).subarray(0, 4)]).toEqual([0x76, 0x2f, 0x31, 0x01])
  await replace(id, 'low', square(1), 'other.obj')
  expect(await fresh(id)).toEqual([['thickness', false]])
})

test('a copy of a project has its models with what was baked; deleted ones come back, and go for good after thirty days', async () => {
  const project = await createProject('Copied')
  const id = await add(project, square(), 'plate.obj')
  await setBakeSettings(id, SMALL)
  await bake(id, [{ part: 0, kind: 'normal' }])
  const copy = await duplicateProject(project)
  const [twin] = await listModels(copy)
  expect(twin).toMatchObject({ name: 'plate', swatches: [expect.stringContaining('/normal/1001/swatch')] })
  expect(await fresh(twin!.id)).toEqual([['normal', true]])
  await setModelDeleted(id, true)
  expect(await listModels(project)).toEqual([])
  await expect(openModel(id)).rejects.toMatchObject({ status: 404 })
  await setModelDeleted(id, false)
  expect(await listModels(project)).toHaveLength(1)
  await setModelDeleted(id, true)
  await setModelDeleted(twin!.id, true)
  await database().raw(`update models set deleted_at = deleted_at - interval '31 days' where deleted_at is not null`)
  await database().raw(`update meshes set created_at = created_at - interval '2 days'`)
  await database().raw(`update blobs set created_at = created_at - interval '2 days'`)
  const bytes = async () => (await database()('blobs').count<{ count: string }[]>('*'))[0]!.count
  const before = Number(await bytes())
  await purge()
  // Its mesh data go; the mesh itself is another model's too.
  expect(Number(await bytes())).toBeLessThan(before)
  expect(await database()('mesh_data').where({ model_id: id })).toEqual([])
})
