import { unzipSync } from 'fflate'
import { Readable } from 'node:stream'
import sharp from 'sharp'
import { packings } from '#core/texture/packings/packings.generated'
import { importImage } from '../assets/assets.server'
import { latestDeliveries } from '../deliveries/deliveries.server'
import { deliveredRaster } from '../deliveries/delivery-files.server'
import { memoryWriter } from '#core/texture/bytes/byte-writer'
import { startExr } from '#core/texture/formats/exr'
import { openDocument } from '../documents/documents.server'
import { createProject, duplicateProject, listProjects, openProject } from '../projects/projects.server'
import { listBakes } from '../runs/runs.server'
import { startWorker } from '../runs/worker.server'
import { wholeBlob } from '../storage/blobs.server'
import { database } from '../database/database.server'
import { ownDatabase } from '../testing/own-database'
import {
  addMapSet,
  changeMapSet,
  convertMapSets,
  listMapSets,
  openAsMaterial,
  regionsOf,
  replaceFiles,
  setFileRole,
} from './map-sets.server'

let worker: Awaited<ReturnType<typeof startWorker>>
afterAll(() => worker.close())
ownDatabase()
beforeAll(async () => void (worker = await startWorker('test', 1)))

const SIDE = 32
/** A file in the library. */
async function kept(bytes: Uint8Array, name: string): Promise<{ sha256: string; name: string }> {
  const { sha256 } = await importImage(Readable.from([Buffer.from(bytes)]), name)
  return { sha256, name }
}
/** A PNG whose texels come from where they lie, and the same in the library. */
async function brought(
  name: string,
  texel: (x: number, y: number) => number[],
): Promise<{ sha256: string; name: string }> {
  const texels = Array.from({ length: SIDE * SIDE }, (_, i) => texel(i % SIDE, Math.floor(i / SIDE)))
  const channels = texels[0]!.length as 1 | 3 | 4
  const png = await sharp(Uint8Array.from(texels.flat()), { raw: { width: SIDE, height: SIDE, channels } })
    .toColourspace(channels === 1 ? 'b-w' : 'srgb')
    .png()
    .toBuffer()
  return kept(png, name)
}
const packing = (name: string) => packings.find((one) => one.name === name)!
const as = (name: string, width: number | null = null) => ({ packing: packing(name), width, dither: false, sharpen: 0 })

async function converted(project: string, set: string) {
  for (const began = Date.now(); Date.now() - began < 60_000;) {
    const { documentId } = (await listMapSets(project)).find(({ id }) => id === set)!
    const [run] = await listBakes(documentId!)
    if (run?.state === 'failed') throw new Error(run.error!)
    if (run?.state === 'done') return (await latestDeliveries([documentId!]))[0]!
    await new Promise((resolve) => setTimeout(resolve, 50))
  }
  throw new Error('not converted in time')
}
const diffuse = () => brought('crate_diffuse.png', (x) => (x < 16 ? [200, 120, 60] : [0, 0, 0]))
/** Left a plain dielectric of gloss 102, right metal of gloss 204. */
const specular = () => brought('crate_specular.png', (x) => (x < 16 ? [56, 56, 56, 102] : [230, 180, 90, 204]))

test('a set of diffuse and specular becomes one of base colour and metal; its material is not listed until it is opened', async () => {
  const project = await createProject('Old crate')
  const set = await addMapSet(project, { name: 'Crate', files: [await diffuse(), await specular()] })
  const [known] = await listMapSets(project)
  expect(known!.files.map(({ by, slots }) => [by, slots.map(({ channel }) => channel).join(' ')])).toEqual([
    ['name', 'colour colour colour'],
    ['name', 'specular specular specular roughness'],
  ])
  await convertMapSets(project, [set], as('occlusion-rough-metal-y-up'))
  const delivery = await converted(project, set)
  expect([delivery.width, delivery.height]).toEqual([SIDE, SIDE])
  // What the set has not is not delivered.
  expect(delivery.forms.map(({ map }) => map)).toEqual(['colour', 'occlusion-rough-metal'])
  // Findings are there, and say what they are about.
  expect(delivery.findings).not.toBeNull()
  const index = delivery.forms.findIndex(({ map }) => map === 'occlusion-rough-metal')
  const { values } = await deliveredRaster(delivery.id, index, 0)
  const at = (x: number): number[] => [1, 2].map((c) => Math.round(values[(5 * SIDE + x) * 3 + c]! * 255))
  // Rough is 1 − gloss; a specular of sRGB 56 is .04 linear, which is no metal; black under bright specular is all metal.
  expect(at(4)).toEqual([153, 0])
  expect(at(27)).toEqual([51, 255])

  expect((await openProject(project)).documents).toHaveLength(1)
  expect((await listProjects()).find(({ id }) => id === project)!.documents).toBe(1)
  const material = await openAsMaterial(project, set)
  expect(material).toBe(delivery.documentId)
  expect((await openProject(project)).documents.map(({ name }) => name)).toEqual(['Material 1', 'Crate'])
})

test('what files hold can be said otherwise; the next conversion goes by it and the earlier one is stale', async () => {
  const project = await createProject('By hand')
  const set = await addMapSet(project, { name: 'Grey', files: [await brought('a_roughness.png', () => [64])] })
  await convertMapSets(project, [set], as('separate-maps'))
  const first = await converted(project, set)
  await setFileRole(project, set, 0, {
    transfer: 'raw',
    slots: [{ channel: 'roughness', component: 0, inverted: true }],
  })
  const [changed] = await listMapSets(project)
  expect([changed!.files[0]!.by, changed!.changedAt > first.createdAt]).toEqual(['hand', true])
  await convertMapSets(project, [set], as('separate-maps', 16))
  const second = await converted(project, set)
  expect([second.width, second.documentId === first.documentId]).toEqual([16, false])
  const roughness = async ({ id, forms }: typeof first): Promise<number> =>
    Math.round(
      (
        await deliveredRaster(
          id,
          forms.findIndex(({ map }) => map === 'roughness'),
          0,
        )
      ).values[0]! * 255,
    )
  expect([await roughness(first), await roughness(second)]).toEqual([64, 191])
})

test('of two files that seem to hold the same one is used; saying both is refused in words, and nothing is asked for', async () => {
  const project = await createProject('Twice')
  const files = [await brought('b_height.png', (x) => [x * 8]), await brought('b_displacement.png', (_, y) => [y * 8])]
  const set = await addMapSet(project, { name: 'Twice', files })
  const good = await addMapSet(project, { name: 'Good', files: [files[0]!] })
  expect((await listMapSets(project)).find(({ id }) => id === set)!.files.map(({ slots }) => slots.length)).toEqual([
    1, 0,
  ])
  const height = { channel: 'height' as const, component: 0, inverted: false }
  await setFileRole(project, set, 1, { transfer: 'raw', slots: [height] })
  await expect(convertMapSets(project, [good, set], as('separate-maps'))).rejects.toMatchObject({
    status: 409,
    message: expect.stringContaining('b_height.png and b_displacement.png') as string,
  })
  expect((await listMapSets(project)).map(({ documentId }) => documentId)).toEqual([null, null])
  await expect(setFileRole(project, set, 1, { transfer: 'raw', slots: [height, height] })).rejects.toMatchObject({
    status: 400,
  })
  // What was said before comes later: nothing changes; what another page says does.
  const page = crypto.randomUUID()
  const channelNow = async () => (await listMapSets(project)).find(({ id }) => id === set)!.files[1]!.slots[0]!.channel
  const say = (channel: 'roughness' | 'metallic' | 'occlusion', turn: number, by = page) =>
    setFileRole(project, set, 1, { transfer: 'raw', slots: [{ ...height, channel }] }, { page: by, turn })
  await say('roughness', 2)
  await say('metallic', 1)
  expect(await channelNow()).toBe('roughness')
  await say('occlusion', 1, crypto.randomUUID())
  expect(await channelNow()).toBe('occlusion')
  await setFileRole(project, set, 1, { transfer: 'raw', slots: [height] })
  await setFileRole(project, set, 0, { transfer: 'raw', slots: [] })
  await convertMapSets(project, [set], as('separate-maps'))
  expect((await converted(project, set)).width).toBe(SIDE)
})

test('several sets at once; a deleted one comes back; a copy of the project has its sets', async () => {
  const project = await createProject('Batch')
  const files = [await diffuse(), await specular()]
  const sets = [
    await addMapSet(project, { name: 'One', files }),
    await addMapSet(project, { name: 'Two', files: [files[0]!] }),
  ]
  await convertMapSets(project, sets, as('specular-gloss'))
  for (const set of sets) expect((await converted(project, set)).packing).toBe('Specular-gloss')
  await changeMapSet(project, sets[0]!, { isDeleted: true })
  expect((await listMapSets(project)).map(({ name }) => name)).toEqual(['Two'])
  await expect(convertMapSets(project, [sets[0]!], as('specular-gloss'))).rejects.toMatchObject({ status: 404 })
  await changeMapSet(project, sets[0]!, { isDeleted: false, name: 'One again' })
  expect((await listMapSets(project)).map(({ name }) => name)).toEqual(['Two', 'One again'])
  // Open as a material, a set of the copy leads to that of the copy; others are made anew when they are converted.
  const opened = await openAsMaterial(project, sets[1]!)
  const copy = await openProject(await duplicateProject(project))
  expect(copy.documents.map(({ name }) => name)).toEqual(['Material 1', 'Two'])
  const copied = await listMapSets(copy.id)
  expect(copied.map(({ name, files: { length } }) => [name, length])).toEqual([
    ['Two', 1],
    ['One again', 2],
  ])
  const [two, one] = copied.map(({ documentId }) => documentId)
  expect([two === opened, two, one]).toEqual([false, copy.documents.find(({ name }) => name === 'Two')!.id, null])
  await convertMapSets(copy.id, [copied[1]!.id], as('specular-gloss'))
  expect((await converted(copy.id, copied[1]!.id)).packing).toBe('Specular-gloss')
  await expect(
    addMapSet(project, { name: 'x', files: [{ sha256: 'f'.repeat(64), name: 'gone.png' }] }),
  ).rejects.toMatchObject({ status: 404 })
})

test('heights of floats are metres where they go below 0, and others span what is said', async () => {
  const exr = (values: readonly number[]) => {
    const to = memoryWriter()
    const rows = startExr({ width: 2, height: values.length / 2, channels: ['Y'], pixel: 'float' }, to)
    rows.rows(Float32Array.from(values))
    rows.end()
    return to.bytes()
  }
  const project = await createProject('Heights')
  const steps = [0.1, 0.9, 0.4, 0.6]
  const metres = [-0.03, 0.01, 0, 0.02]
  const of = async (values: readonly number[]) =>
    addMapSet(project, { name: 'H', files: [await kept(exr(values), 'wall_height.exr')] })
  const [inMetres, inSteps] = [await of(metres), await of(steps)]
  const sets = await listMapSets(project)
  const judged = (id: string) => sets.find((one) => one.id === id)!.files[0]!.inMetres
  expect([judged(inMetres), judged(inSteps)]).toEqual([true, false])
  await changeMapSet(project, inSteps, { heightMetres: 0.5 })
  const made = async (id: string) => (await openDocument(await openAsMaterial(project, id))).document
  const deep = await made(inMetres)
  expect(deep.heightMetres).toBeCloseTo(0.06, 6)
  expect(deep.nodes.metres!.params).toMatchObject({ fromLow: expect.closeTo(-0.03), fromHigh: expect.closeTo(0.03) })
  expect((await made(inSteps)).heightMetres).toBe(0.5)
  // Delivered as floats they are the metres that came in.
  await convertMapSets(project, [inMetres], as('offline-render'))
  const delivery = await converted(project, inMetres)
  const index = delivery.forms.findIndex(({ map }) => map === 'height')
  const { values, channels } = await deliveredRaster(delivery.id, index, 0)
  metres.forEach((v, i) => expect(values[i * channels]).toBeCloseTo(v, 6))
})

test('a set whose normals are in the space of a model is opened as a material for parts, and converted only without them', async () => {
  const project = await createProject('Hull')
  const round = await brought('hull_object_normal.png', (x, y) => {
    const [turn, z] = [(x / SIDE) * 2 * Math.PI, ((y + 0.5) / SIDE) * 2 - 1]
    const level = Math.sqrt(1 - z * z)
    return [level * Math.cos(turn), level * Math.sin(turn), z].map((n) => Math.round((n * 0.5 + 0.5) * 255))
  })
  const set = await addMapSet(project, { name: 'Hull', files: [await diffuse(), round] })
  await expect(convertMapSets(project, [set], as('occlusion-rough-metal-y-up'))).rejects.toMatchObject({ status: 409 })
  const { document } = await openDocument(await openAsMaterial(project, set))
  expect(document.domain).toEqual({ kind: 'part' })
  expect(document.nodes.tangent!.inputs).toMatchObject({ base: 'baked.normal' })
  await setFileRole(project, set, 1, { transfer: 'raw', slots: [] })
  await convertMapSets(project, [set], as('occlusion-rough-metal-y-up'))
  expect((await converted(project, set)).forms.map(({ map }) => map)).toEqual(['colour'])
})

test('maps in place of the files of another set have their names, sizes and meanings; what they were goes along', async () => {
  const project = await createProject('In place')
  const plain = sharp({ create: { width: 16, height: 16, channels: 3, background: '#102030' } })
  const old = await addMapSet(project, {
    name: 'Old crate',
    files: [
      await brought('CRATE_D.png', () => [10, 20, 30]),
      await brought('crate emission.png', () => [9, 8, 7]),
      await kept(await plain.png().toBuffer(), 'crate_rma.png'),
    ],
  })
  const fresh = await addMapSet(project, {
    name: 'New crate',
    files: [await brought('new_colour.png', () => [200, 100, 50]), await brought('new_roughness.png', () => [51])],
  })
  const roles = (await listMapSets(project)).find(({ id }) => id === old)!.files
  const rma = roles.findIndex(({ name }) => name === 'crate_rma.png')
  const plane = (channel: string | null) => ({ channel, component: 0, inverted: false })
  await setFileRole(project, old, rma, { transfer: 'raw', slots: [plane('roughness'), plane(null), plane(null)] })
  await setFileRole(project, old, 0, {
    transfer: 'srgb',
    slots: [0, 1, 2].map((component) => ({ channel: 'colour', component, inverted: false })),
  })
  expect(await replaceFiles(project, fresh, old)).toEqual([
    'crate emission.png: it holds emission, which the set has not',
  ])
  const newest = await converted(project, fresh)
  for (const began = Date.now(); Date.now() - began < 30_000;) {
    if ((await latestDeliveries([newest.documentId])).length === 2) break
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  const deliveries = await latestDeliveries([newest.documentId])
  expect(deliveries.map(({ width, forms }) => [width, forms.map(({ name }) => name)])).toEqual(
    expect.arrayContaining([
      [SIDE, ['CRATE_D.png']],
      [16, ['crate_rma.png']],
    ]),
  )
  const of = (width: number) => deliveries.find((one) => one.width === width)!
  const { values } = await deliveredRaster(of(16).id, 0, 0)
  // Roughness of the new set; green and blue of the old file, which nothing tells of, on the whole.
  expect([...values.subarray(0, 3)].map((v) => Math.round(v * 255))).toEqual([51, 0x20, 0x30])
  const { zip_sha256: zip } = (await database()('deliveries')
    .where({ id: of(SIDE).id })
    .first<{ zip_sha256: string }>())!
  const entries = unzipSync(new Uint8Array(await wholeBlob(zip)))
  expect(Object.keys(entries)).toEqual(expect.arrayContaining(['CRATE_D.png', 'before/CRATE_D.png']))
  const before = await sharp(Buffer.from(entries['before/CRATE_D.png']!)).raw().toBuffer()
  expect([...before.subarray(0, 3)]).toEqual([10, 20, 30])
  await expect(replaceFiles(project, old, fresh)).resolves.toEqual([])
})

test('how even a set is within the regions of an image of IDs', async () => {
  const project = await createProject('Even')
  const files = [
    await brought('c_ids.png', (x) => (x < 8 ? [255, 0, 0] : [0, 0, 255])),
    await brought('c_orm.png', (x, y) => [255, x < 8 ? 80 : y % 2 ? 40 : 200, 0]),
    await brought('c_height.png', () => [128]),
  ]
  const set = await addMapSet(project, { name: 'Even', files })
  const { channels, regions } = await regionsOf(project, set, 0)
  expect(channels).toEqual(['occlusion', 'roughness', 'metallic', 'height'])
  expect(regions.map(({ colour, ratio }) => [colour, ratio])).toEqual([
    ['#0000ff', 0.75],
    ['#ff0000', 0.25],
  ])
  const rough = regions.map(({ spreads }) => [spreads[1]!.mean * 255, spreads[1]!.deviation * 255].map(Math.round))
  expect(rough).toEqual([
    [120, 80],
    [80, 0],
  ])
  await expect(regionsOf(project, set, 7)).rejects.toMatchObject({ status: 404 })
})
