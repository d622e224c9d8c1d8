import type { ChildProcess } from 'node:child_process'
import { execFileSync, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { packings } from '#core/texture/packings/packings.generated'
import { importImage, listAssets, library, sweep, thumbnail } from '../assets/assets.server'
import { blobResponse, putBlob, wholeBlob } from '../storage/blobs.server'
import { database } from '../database/database.server'
import { findDelivery, listDeliveries, repeatDelivery, zipResponse } from '../deliveries/deliveries.server'
import { editOf } from '#core/document/patches'
import { openDocument } from '../documents/documents.server'
import { saveEdits } from '../documents/saves.server'
import { compareDeliveries, compareMap, deliveredFile, deliveredRaster } from '../deliveries/delivery-files.server'
import { Problem } from '../http/problem.server'
import { pictureOf } from '../documents/pictures.server'
import { addDocument, duplicateDocument, emptyMaterial, setTags } from '../projects/materials.server'
import { createProject, openProject } from '../projects/projects.server'
import type { Run } from '../../contracts/run'
import { enqueueBake, enqueueBakes, cancelRun, enqueue, findRun, listRuns, retryRun } from './runs.server'
import { ownDatabase } from '../testing/own-database'
import { eventStream } from '../events/events.server'

/** Worker processes of their own, as bin/worker starts them. */
const workers = new Set<ChildProcess>()
function startWorker(): ChildProcess {
  const child = spawn('bin/worker', ['--threads', '1'], { stdio: 'inherit', detached: true, env: { ...process.env } })
  workers.add(child)
  return child
}
/** Ends a worker and its threads. */
const end = (child: ChildProcess, signal: NodeJS.Signals): Promise<void> =>
  new Promise((resolve) => {
    workers.delete(child)
    child.once('exit', () => resolve())
    process.kill(-child.pid!, signal)
  })
afterAll(() => Promise.all([...workers].map((child) => end(child, 'SIGTERM'))))
ownDatabase()

const setts = parseDocument(JSON.parse(readFileSync('demo/quay-setts.json', 'utf8')))
const packing = packings.find(({ name }) => name === 'occlusion-rough-metal-y-up')!
const bakeOf = async (document: MaterialDocument, width: number) => {
  const project = await createProject('Bakes')
  const id = await addDocument(project, document)
  return { project, id, run: await enqueue('bake', id, 0, { packing, width, dither: true }) }
}
async function until(run: string, reached: (run: Run) => boolean, seconds = 90): Promise<Run> {
  for (const started = Date.now(); Date.now() - started < seconds * 1000;) {
    const found = (await findRun(run))!
    if (reached(found)) return found
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  throw new Error(`not reached: ${JSON.stringify(await findRun(run))}`)
}
/** A size whose bake takes some seconds on one thread: long enough to be broken off. */
const LONG = 1024
const ANY_PROJECT = '00000000-0000-4000-8000-000000000000'
const ended = (run: Run): boolean => run.endedAt !== null
const bodyOf = async (response: Response): Promise<Buffer> => Buffer.from(await response.arrayBuffer())
const get = (headers: Record<string, string> = {}): Request => new Request('http://x/', { headers })
async function* once(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += 70000) yield bytes.subarray(at, at + 70000)
}
const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex')
const status = async (work: Promise<unknown>): Promise<unknown> =>
  work.then(
    () => 200,
    (error: unknown) => (error instanceof Problem ? error.status : (error as { code: string }).code),
  )

describe('blobs', () => {
  const bytes = new Uint8Array(2_500_001).map((_, i) => (i * 31) >> 3)
  const put = (source: AsyncIterable<Uint8Array>, options = {}) =>
    database().transaction((transaction) => putBlob(transaction, source, options))
  const count = async (): Promise<unknown[]> =>
    (
      await database().raw<{ rows: unknown[] }>(
        'select (select count(*) from blobs), (select count(*) from blob_chunks)',
      )
    ).rows

  test('are kept once by content; what breaks off, is too large or arrives damaged leaves nothing', async () => {
    const blob = await put(once(bytes))
    expect(blob).toEqual({ sha256: sha256(bytes), bytes: bytes.length })
    const before = await count()
    await put(once(bytes), { expected: sha256(bytes) })
    expect(await status(put(once(bytes.subarray(1)), { expected: sha256(bytes) }))).toBe(422)
    expect(await status(put(once(bytes.subarray(2)), { max: 1 << 20 }))).toBe(413)
    const broken = async function* () {
      yield bytes.subarray(3)
      throw new Problem(400, 'the line was cut')
    }
    expect(await status(put(broken()))).toBe(400)
    expect(await count()).toEqual(before)
    expect((await wholeBlob(blob.sha256)).equals(bytes)).toBe(true)
  })

  test.each([
    ['bytes=0-9', 206, 0, 10],
    ['bytes=1048570-1048580', 206, 1048570, 1048581],
    ['bytes=2500000-', 206, 2500000, 2500001],
    ['bytes=-5', 206, 2499996, 2500001],
    ['bytes=2500001-', 416, 0, 0],
    ['nonsense', 200, 0, 2500001],
  ])('range %s answers %s (RFC 9110, section 14)', async (range, code, from, to) => {
    const response = await blobResponse(get({ Range: range }), sha256(bytes), {})
    expect(response.status).toBe(code)
    if (code === 206) expect(response.headers.get('Content-Range')).toBe(`bytes ${from}-${to - 1}/${bytes.length}`)
    if (code !== 416) expect((await bodyOf(response)).equals(bytes.subarray(from, to))).toBe(true)
  })
  test('a range of another version gives the whole', async () => {
    expect((await blobResponse(get({ Range: 'bytes=0-9', 'If-Range': '"other"' }), sha256(bytes), {})).status).toBe(200)
  })
})

describe('images', () => {
  test('are decoded once; the engine reads the same values as from the file', async () => {
    const png = await sharp({ create: { width: 9, height: 5, channels: 3, background: { r: 180, g: 105, b: 14 } } })
      .png()
      .toBuffer()
    const asset = await importImage(once(png), 'plate.png', sha256(png))
    expect(asset).toMatchObject({ sha256: sha256(png), width: 9, height: 5, channels: 3, bits: 8, float: false })
    expect(await importImage(once(png), 'again.png')).toEqual(asset)
    const image = await library.load(`sha256:${asset.sha256}`)
    expect([...image.values.subarray(0, 3)]).toEqual([180, 105, 14].map((v) => Math.fround(v / 255)))
    expect((await sharp(await thumbnail(asset.sha256)).metadata()).format).toBe('png')
    expect(await status(library.load('photo.png'))).toBe('asset-missing')
  })

  test('damaged ones are refused with words, and the server goes on', async () => {
    const png = await sharp({ create: { width: 60, height: 60, channels: 3, background: '#777' } })
      .png()
      .toBuffer()
    const lying = Buffer.from(png)
    lying.writeUInt32BE(40000, 16)
    const bomb = Buffer.from(png)
    bomb.writeUInt32BE(20000, 16)
    bomb.writeUInt32BE(20000, 20)
    const before = (await listAssets(ANY_PROJECT)).length
    for (const bytes of [png.subarray(0, 70), lying, bomb, Buffer.from('not an image at all, only text')])
      expect(['file-invalid', 'file-unsupported']).toContain(await status(importImage(once(bytes), 'x.png')))
    expect(await listAssets(ANY_PROJECT)).toHaveLength(before)
  })

  test('those of the library stay whether a document names them or not; bytes that nothing names are swept', async () => {
    const [kept, loose] = await Promise.all(
      ['#111', '#222'].map(async (background) =>
        importImage(
          once(
            await sharp({ create: { width: 3, height: 3, channels: 3, background } })
              .png()
              .toBuffer(),
          ),
          `${background}.png`,
        ),
      ),
    )
    const document = parseDocument({
      ...emptyMaterial('Named'),
      nodes: { p: { type: 'image', params: { image: `sha256:${kept!.sha256}` } } },
    })
    await addDocument(await createProject('Sweep'), document)
    const nothing = new Uint8Array(1000).fill(7)
    await database().transaction((transaction) => putBlob(transaction, once(nothing)))
    expect(await sweep()).toBe(0)
    expect(await sweep(0)).toBeGreaterThan(0)
    expect(await sweep(0)).toBe(0)
    const names = (await listAssets(ANY_PROJECT)).map((asset) => asset.sha256)
    expect(names).toEqual(expect.arrayContaining([kept!.sha256, loose!.sha256]))
    expect((await wholeBlob(loose!.sha256)).length).toBeGreaterThan(0)
  })
})

describe('bakes', () => {
  beforeAll(() => void startWorker())

  test('a delivery with an image: its ZIP opens anywhere and is made again from itself alone', async () => {
    const png = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#b4690e' } })
      .png()
      .toBuffer()
    const asset = await importImage(once(png), 'plate.png')
    const document = parseDocument({
      ...emptyMaterial('Plate'),
      nodes: { p: { type: 'image', params: { image: `sha256:${asset.sha256}` } }, n: { type: 'noise' } },
      layers: [
        {
          kind: 'layer',
          id: 'a',
          name: 'A',
          cells: { colour: { source: { node: 'p.colour' } }, height: { source: { node: 'n.grey' } } },
        },
      ],
    })
    const { project, id, run } = await bakeOf(document, 64)
    const done = await until(run, ended)
    expect(done).toMatchObject({ state: 'done', progress: 1, error: null })
    expect(done.log.length).toBeGreaterThan(1)
    const [delivery] = await listDeliveries({ projectId: project })
    expect(delivery).toMatchObject({ document: 'Plate', width: 64, height: 64, files: 4 })
    while ((await status(pictureOf(id))) !== 200) await new Promise((resolve) => setTimeout(resolve, 100))
    expect((await sharp(await pictureOf(id)).metadata()).width).toBe(320)

    const zip = await bodyOf(await zipResponse(get(), delivery!.id))
    const half = await bodyOf(await zipResponse(get({ Range: `bytes=${zip.length >> 1}-` }), delivery!.id))
    expect(half.equals(zip.subarray(zip.length >> 1))).toBe(true)
    const folder = mkdtempSync(join(tmpdir(), 'zip-'))
    try {
      writeFileSync(join(folder, 'maps.zip'), zip)
      execFileSync('/usr/bin/python3', [
        '-c',
        'import zipfile, sys; z = zipfile.ZipFile(sys.argv[1]); assert z.testzip() is None; z.extractall(sys.argv[2])',
        join(folder, 'maps.zip'),
        folder,
      ])
      // A fresh process without a database.
      const env = { ...process.env, DATABASE_URL: undefined }
      const out = execFileSync('bin/grist', ['remake', join(folder, 'record.json')], { encoding: 'utf8', env })
      expect(out.match(/^same/gm)).toHaveLength(4)
    } finally {
      rmSync(folder, { recursive: true })
    }
    const again = await until(await repeatDelivery(delivery!.id), ended)
    expect(again.result).toBe('Made again: all 4 files hold the same, texel for texel.')
    expect(await listDeliveries({ projectId: project })).toHaveLength(1)
    // The same bake twice packs into the same bytes.
    const twin = await until(await enqueue('bake', id, 0, { packing, width: 64, dither: true }), ended)
    expect(twin.state).toBe('done')
    const both = await Promise.all(
      (await listDeliveries({ projectId: project })).map(({ id: one }) => findDelivery(one)),
    )
    expect(both[0]!.zip_sha256).toBe(both[1]!.zip_sha256)
  })

  test('a dial’s image is the one that goes along, in its own folder, whatever it is called; old revisions can be asked for', async () => {
    const image = async (background: string, name: string) =>
      importImage(
        once(
          await sharp({ create: { width: 8, height: 8, channels: 3, background } })
            .png()
            .toBuffer(),
        ),
        name,
      )
    // Called like a map, and in 200 letters of three bytes each.
    const first = await image('#102030', 'Plate_colour.png')
    const second = await image('#a0b0c0', `${'城'.repeat(196)}.png`)
    const document = parseDocument({
      ...emptyMaterial('Plate'),
      nodes: { p: { type: 'image', params: { image: `sha256:${first.sha256}` } } },
      layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { colour: { source: { node: 'p.colour' } } } }],
      dials: [
        {
          id: 'd',
          label: 'Plate',
          kind: 'image',
          default: `sha256:${first.sha256}`,
          value: `sha256:${second.sha256}`,
          drives: [{ node: 'p', field: 'image' }],
        },
      ],
    })
    const id = await addDocument(await createProject('Dial'), document)
    const { document: saved } = await openDocument(id)
    const edit = editOf(saved, 'Dial', (draft) => void (draft.dials[0]!.value = `sha256:${first.sha256}`))!
    await saveEdits(id, { base: 0, edits: [edit] })
    const settings = { packing, width: 64, dither: false, sharpen: 0 }
    const runs = [await enqueueBake(id, settings, { revision: 0 }), await enqueueBake(id, settings)]
    for (const run of runs) expect((await until(run, ended)).error).toBeNull()
    expect(await status(enqueueBake(id, settings, { revision: 7 }))).toBe(404)
    for (const { id: delivery, revision } of await listDeliveries({ documentId: id })) {
      const used = revision === 0 ? second : first
      expect((await findDelivery(delivery)).record.assets).toEqual({ [`sha256:${used.sha256}`]: used.sha256 })
      const folder = mkdtempSync(join(tmpdir(), 'dial-'))
      try {
        const zip = await zipResponse(get(), delivery)
        // The number tells one download from the next.
        const { number } = (await listDeliveries({ documentId: id })).find((one) => one.id === delivery)!
        expect(decodeURIComponent(zip.headers.get('Content-Disposition')!)).toMatch(new RegExp(` ${number}\\.zip$`))
        writeFileSync(join(folder, 'maps.zip'), await bodyOf(zip))
        execFileSync('/usr/bin/python3', ['-m', 'zipfile', '-e', join(folder, 'maps.zip'), folder])
        const [along] = readdirSync(join(folder, 'images'))
        expect(sha256(readFileSync(join(folder, 'images', along!)))).toBe(used.sha256)
        expect(Buffer.byteLength(along!)).toBeLessThanOrEqual(255)
        const { data } = await sharp(join(folder, 'Plate_colour.png')).raw().toBuffer({ resolveWithObject: true })
        expect([...data.subarray(0, 3)]).toEqual(revision === 0 ? [0xa0, 0xb0, 0xc0] : [0x10, 0x20, 0x30])
        const out = execFileSync('bin/grist', ['remake', join(folder, 'record.json')], { encoding: 'utf8' })
        expect(out.match(/^same/gm)).toHaveLength(4)
      } finally {
        rmSync(folder, { recursive: true })
      }
    }
    // Sending an image again begins its days anew.
    await database().raw(`update assets set created_at = now() - interval '9 days'`)
    await image('#102030', 'again.png')
    const { rows } = await database().raw<{ rows: { fresh: boolean }[] }>(
      `select created_at > now() - interval '1 day' as fresh from assets where sha256 = ?`,
      [first.sha256],
    )
    expect(rows[0]!.fresh).toBe(true)
  })

  test('a second delivery makes what changed and keeps the rest, told with the time of each map', async () => {
    const project = await createProject('Twice')
    const member = (colour: string) =>
      parseDocument({
        ...emptyMaterial('Slab'),
        nodes: { n: { type: 'noise' } },
        layers: [
          {
            kind: 'layer',
            id: 'a',
            name: 'A',
            cells: { roughness: { source: { node: 'n.grey' } }, colour: { source: { value: colour } } },
          },
        ],
      })
    const id = await addDocument(project, member('#804020'))
    const make = async () => {
      const run = await enqueueBake(id, { packing, width: 32, dither: false, sharpen: 0 })
      expect((await until(run, ended)).error).toBeNull()
      return (await listDeliveries({ documentId: id }))[0]!
    }
    const first = await make()
    expect(first.times.map(({ kept }) => kept)).toEqual(first.forms.map(() => false))
    const { document: saved } = await openDocument(id)
    const edit = editOf(saved, 'Other colour', (draft) => void (draft.layers = member('#208040').layers))!
    await saveEdits(id, { base: 0, edits: [edit] })
    const second = await make()
    expect(second.times.filter(({ kept }) => !kept).map(({ map }) => map)).toEqual(['colour'])
    for (const [i, file] of second.forms.entries()) {
      const { bytes } = await deliveredFile(second.id, i)
      expect(sha256(bytes)).toBe(file.sha256)
      if (file.map !== 'colour') expect(file.sha256).toBe(first.forms[i]!.sha256)
    }
  })

  test('a delivery’s own settings change what is made and not the material, and hold when it is made again', async () => {
    const project = await createProject('Own')
    const layer = (id: string, value: number) => ({
      kind: 'layer',
      id,
      name: id,
      cells: { roughness: { source: { value } } },
    })
    const document = parseDocument({ ...emptyMaterial('Slab'), layers: [layer('a', 0.2), layer('b', 0.8)] })
    const id = await addDocument(project, document)
    const own = { layers: { b: { off: true } } }
    const run = await enqueueBake(id, { packing, width: 16, dither: false, sharpen: 0, own })
    expect((await until(run, ended)).error).toBeNull()
    const [made] = await listDeliveries({ documentId: id })
    const { record } = await findDelivery(made!.id)
    const roughness = record.files.flatMap(({ slots }) => slots).find(({ channel }) => channel === 'roughness')!
    expect([roughness.min, roughness.max].map((v) => Number(v.toFixed(3)))).toEqual([0.2, 0.2])
    expect((await openDocument(id)).document.layers).toEqual(document.layers)
    const again = await until(await repeatDelivery(made!.id), ended)
    expect(again.result).toContain('hold the same')
  })

  test('several materials are made at once, all or none; tags go with a copy', async () => {
    const project = await createProject('Many', emptyMaterial('One'))
    const [one] = (await openProject(project)).documents
    const wide = await addDocument(project, {
      ...emptyMaterial('Wide'),
      domain: { kind: 'tile', metres: [3, 1] },
    })
    const request = { packing, width: 32, dither: false, sharpen: 0 }
    // 32 texels across 3 m leave no whole number for 1 m.
    expect(await status(enqueueBakes(project, [one!.id, wide], request))).toBe('size-invalid')
    expect(await listRuns({ projectId: project })).toEqual([])
    await enqueueBakes(project, [one!.id, wide], { ...request, width: 48 })
    for (const { id } of await listRuns({ projectId: project })) expect((await until(id, ended)).error).toBeNull()
    expect((await listDeliveries({ projectId: project })).map(({ document }) => document).sort()).toEqual([
      'One',
      'Wide',
    ])
    expect(await status(enqueueBakes(project, [(await bakeOf(setts, 16)).id], request))).toBe(404)

    await setTags(wide, ' stone,wet ,, Stone,  two  words')
    const copy = await duplicateDocument(wide)
    const found = (await openProject(project)).documents.find(({ id }) => id === copy)!
    expect(found.tags).toEqual(['Stone', 'wet', 'two words'])
    await setTags(copy, '')
    expect((await openProject(project)).documents.find(({ id }) => id === copy)!.tags).toEqual([])
  })

  test('deliveries are numbered, named by their pattern, read file by file, and compared map by map', async () => {
    const project = await createProject('North lock')
    const document = parseDocument({
      ...emptyMaterial('Slab'),
      nodes: { n: { type: 'noise' } },
      layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { roughness: { source: { node: 'n.grey' } } } }],
    })
    const id = await addDocument(project, document)
    const own = {
      ...packing,
      pattern: '{project}-{delivery}-{map}',
      files: [
        {
          map: 'rough',
          format: 'png' as const,
          bits: 16 as const,
          transfer: 'raw' as const,
          slots: [{ channel: 'roughness', component: 0, invert: false }] as [
            { channel: string; component: number; invert: boolean },
          ],
        },
        ...packing.files.slice(0, 1),
      ],
    }
    const ask = (more: object = {}) => enqueueBake(id, { packing: own, width: 64, dither: false, sharpen: 0, ...more })
    // Two at once get numbers of their own.
    const runs = [
      await ask(),
      ...(await Promise.all([ask({ width: 128 }), ask({ packing: { ...own, files: own.files.slice(1) } })])),
    ]
    for (const run of runs) expect((await until(run, ended)).error).toBeNull()
    const list = await listDeliveries({ documentId: id })
    expect(list.map(({ number }) => number).sort()).toEqual([1, 2, 3])
    const numbered = (number: number) => list.find((one) => one.number === number)!.id
    const first = numbered(1)
    const { file, bytes } = await deliveredFile(first, 0)
    expect(file.name).toBe('North-lock-1-rough.png')
    expect(sha256(bytes)).toBe(file.sha256)
    const whole = await deliveredRaster(first, 0, 0)
    const mip = await deliveredRaster(first, 0, 1)
    expect([whole.width, mip.width, whole.bits]).toEqual([64, 32, 16])
    const box = (whole.values[0]! + whole.values[1]! + whole.values[64]! + whole.values[65]!) / 4
    expect(Math.abs(mip.values[0]! - box)).toBeLessThan(1 / 65535)
    expect(await status(deliveredFile(first, 9))).toBe(404)

    const [large, fewer] =
      list.find(({ width }) => width === 128)!.number === 2 ? [numbered(2), numbered(3)] : [numbered(3), numbered(2)]
    expect(
      (await compareDeliveries(first, fewer)).map(({ map, same, before, after }) => [map, same, !!before, !!after]),
    ).toEqual([
      ['colour', true, true, true],
      ['rough', false, true, false],
    ])
    // The larger one is halved for it; noise means the same at every size, but for its finest grains.
    const { largest, ratio, width, pictures, sizes } = await compareMap(first, large, 'rough', 16)
    expect([width, ratio > 0.5]).toEqual([64, true])
    expect(largest).toBeLessThan(0.05)
    for (const picture of Object.values(pictures)) expect((await sharp(picture).metadata()).width).toBe(64)
    expect(sizes.map(([across]) => across)).toEqual([64, 128])
    // Where no gain is given it fits by itself.
    const same = await compareMap(first, fewer, 'colour', null)
    expect([same.largest, same.added, same.removed, same.gain]).toEqual([0, [], [], 256])
    expect(await status(compareMap(first, fewer, 'rough', 16))).toBe('file-invalid')
    expect(await status(compareMap(first, large, 'none', 16))).toBe('file-invalid')
  })

  test('cancelling takes effect within a second; then it can be tried again', async () => {
    const { project, run } = await bakeOf(setts, 1024)
    await until(run, ({ state, progress }) => state === 'running' && progress > 0.01)
    const asked = Date.now()
    await cancelRun(run)
    const cancelled = await until(run, ended)
    expect(cancelled.state).toBe('cancelled')
    expect(Date.now() - asked).toBeLessThan(2000)
    expect(await listDeliveries({ projectId: project })).toEqual([])
    await database()('runs')
      .where({ id: run })
      .update({ request: JSON.stringify({ packing, width: 64, dither: false }) })
    await retryRun(run)
    expect((await until(run, ended)).state).toBe('done')
    expect(await status(cancelRun(run))).toBe(409)
    expect(await status(retryRun(run))).toBe(409)
  })

  test('a bake that cannot be done fails with the document, node and parameter named', async () => {
    const { run } = await bakeOf(
      parseDocument({
        ...emptyMaterial('Loop'),
        nodes: { n: { type: 'noise', params: { octaves: 99 } } },
        layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { height: { source: { node: 'n.grey' } } } }],
      }),
      64,
    )
    const failed = await until(run, ended)
    expect(failed.state).toBe('failed')
    expect(failed.error).toContain('document "Loop", layer "a", node "n", parameter "octaves"')
  })

  test('who watches hears of progress and of saved edits', async () => {
    const stop = new AbortController()
    const { id, run } = await bakeOf(emptyMaterial('Watched'), 64)
    const reader = eventStream(new Request('http://x/', { signal: stop.signal }), 'here', [
      `document:${id}`,
    ]).body!.getReader()
    let heard = ''
    const listening = (async () => {
      while (!heard.includes(`"id":"${run}"`) || !heard.includes('"type":"document"')) {
        const { value, done } = await reader.read()
        if (done) return
        heard += new TextDecoder().decode(value)
      }
    })()
    await until(run, ended)
    await database()('runs').where({ id: run }).update({ changed_at: database().fn.now() })
    await listening
    stop.abort()
    // What was on its way comes first; then the stream ends.
    let left = await reader.read()
    while (!left.done) left = await reader.read()
    expect(left.done).toBe(true)
  })

  test('a worker killed with -9 in the middle: another takes over within a minute, one delivery exists', async () => {
    for (const child of [...workers]) await end(child, 'SIGTERM')
    const first = startWorker()
    const { project, run } = await bakeOf(setts, LONG)
    await until(run, ({ progress }) => progress > 0.05)
    const killed = Date.now()
    await end(first, 'SIGKILL')
    startWorker()
    await until(run, ({ attempt, state }) => attempt === 2 && state === 'running', 60)
    expect(Date.now() - killed).toBeLessThan(60_000)
    const done = await until(run, ended)
    expect(done).toMatchObject({ state: 'done', attempt: 2 })
    expect(done.log.map(({ text }) => text).join('\n')).toContain('another takes over')
    expect(await listDeliveries({ projectId: project })).toHaveLength(1)
  })

  test('workers that are told to stop hand their bake over at once, as often as they are: restarts are no deaths', async () => {
    const { run } = await bakeOf(setts, LONG)
    for (let restart = 1; restart <= 2; restart++) {
      await until(run, ({ progress, attempt }) => attempt === restart && progress > 0.02)
      const [only] = [...workers]
      await end(only!, 'SIGTERM')
      expect((await findRun(run))!.state).toBe('queued')
      startWorker()
    }
    expect(await until(run, ended)).toMatchObject({ state: 'done', attempt: 3, error: null })
  })
})
