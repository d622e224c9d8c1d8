import { createHash } from 'node:crypto'
import { Readable } from 'node:stream'
import { unzipSync, zipSync } from 'fflate'
import sharp from 'sharp'
import { STANDARD_SETTINGS } from '#core/mesh/bake-settings'
import { meshOf } from '#core/mesh/testing/bake-here'
import { blockObj, volumeOf } from '#core/mesh/testing/shapes'
import { parseDocument } from '#core/document/document'
import { importImage } from '../assets/assets.server'
import { openDocument } from '../documents/documents.server'
import { Problem } from '../http/problem.server'
import { addMadeModel, keptMesh, openModel, shareFiles } from '../models/models.server'
import { placeMaterial, projectParts } from '../placements/placements.server'
import { spooled } from '../storage/uploads.server'
import { ownDatabase } from '../testing/own-database'
import { importMaterials, materialFile, projectFile } from './material-file.server'
import { addDocument, emptyMaterial } from './materials.server'
import { createProject, openProject } from './projects.server'

ownDatabase()

const bring = (bytes: Uint8Array, project: string) =>
  spooled('test', Readable.from([bytes]), createHash('sha256').update(bytes).digest('hex'), (file) =>
    importMaterials(project, file),
  )
const bytesOf = async (response: Response) => new Uint8Array(await response.arrayBuffer())

it('a material, and a whole project, come in again elsewhere as they went out, with their images', async () => {
  const png = await sharp({ create: { width: 4, height: 4, channels: 4, background: '#ff000080' } })
    .png()
    .toBuffer()
  const { sha256 } = await importImage(Readable.from([png]), 'plate.png')
  const project = await createProject('From')
  const document = parseDocument({
    ...emptyMaterial('Plate / 47'),
    nodes: { p: { type: 'stencil', params: { image: `sha256:${sha256}` } } },
  })
  const id = await addDocument(project, document)
  const response = await materialFile(id)
  expect(response.headers.get('Content-Disposition')).toContain(encodeURIComponent('Plate - 47.zip'))
  const to = await createProject('To')
  const [came] = await bring(await bytesOf(response), to)
  expect((await openDocument(came!)).document).toEqual(document)
  expect(await bring(await bytesOf(await projectFile(project)), to)).toHaveLength(2)
  expect((await openProject(to)).documents.map(({ name }) => name)).toEqual([
    'Material 1',
    'Plate / 47',
    'Material 1',
    'Plate / 47',
  ])
})

/** A square metre upright through the origin, after a block of 24 corners; faces count backward. */
const SHEET = `
o sheet
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
vt 0 0
vt 1 0
vt 1 1
vt 0 1
f -4/-4 -3/-3 -2/-2 -1/-1
`

it('a project takes its models along, with their settings and what lies on their parts', async () => {
  const project = await createProject('Shed')
  const part = await addDocument(project, parseDocument({ ...emptyMaterial('Lime'), domain: { kind: 'part' } }))
  const model = await addMadeModel(
    project,
    'Block',
    { low: meshOf(blockObj(2, 1, 1) + SHEET), high: meshOf(blockObj(2, 1, 1)) },
    { ...STANDARD_SETTINGS, size: 256, rays: 8 },
  )
  await placeMaterial(project, { model, part: 0 }, part)
  const ids = { kind: 'piece-id' as const, numbers: [1] }
  await placeMaterial(project, { model, part: 1, ids }, part)
  await shareFiles(model, 1, 0)
  const to = await createProject('Yard')
  const zip = await bytesOf(await projectFile(project))
  await bring(zip, to)
  const [came] = await projectParts(to)
  expect(came!.parts.map(({ name, triangles, material }) => [name, triangles, material?.name])).toEqual([
    ['block', 12, 'Lime'],
    ['sheet', 2, undefined],
  ])
  expect(came!.parts[1]!.onIds).toMatchObject([{ ids, material: { name: 'Lime' } }])
  expect((await openModel(came!.id)).joins).toEqual({ 1: 0 })
  const { name, settings, high, mesh } = await openModel(came!.id)
  expect([name, settings.size, settings.rays]).toEqual(['Block', 256, 8])
  expect([high!.summary.triangles, (await keptMesh(mesh)).uvSets.length]).toEqual([12, 1])
  expect(volumeOf(await keptMesh(mesh))).toBeCloseTo(2, 6)
  // The other project keeps what it had.
  expect((await projectParts(project))[0]!.parts[0]!.material?.id).toBe(part)
  const broken = { 'Lime.json': unzipSync(zip)['Lime.json']!, 'project.json': unzipSync(zip)['project.json']! }
  const before = (await openProject(to)).documents.length
  await expect(bring(zipSync(broken), to)).rejects.toMatchObject({ status: 400 })
  expect((await openProject(to)).documents).toHaveLength(before)
})

it('what is no such file is refused, and nothing comes in', async () => {
  const project = await createProject('Nothing')
  await expect(bring(new TextEncoder().encode('no zip'), project)).rejects.toMatchObject({ status: 400 })
  await expect(bring(new Uint8Array(9), crypto.randomUUID())).rejects.toBeInstanceOf(Problem)
  expect((await openProject(project)).documents).toHaveLength(1)
})
