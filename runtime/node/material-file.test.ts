import { execFileSync } from 'node:child_process'
import { createWriteStream, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Readable } from 'node:stream'
import { buffer } from 'node:stream/consumers'
import { pipeline } from 'node:stream/promises'
import { ZipFile } from 'yazl'
import { documentOf } from '#core/testing/examples'
import { sheet } from '#core/testing/sheet'
import { packMaterials, plainName, unpackMaterials, withImages } from './material-file'

const folder = mkdtempSync(join(tmpdir(), 'materials-'))
afterAll(() => rmSync(folder, { recursive: true }))

const image = (name: string, text: string) => ({ name, read: () => Readable.from([Buffer.from(text)]) })
async function packed(...given: Parameters<typeof packMaterials>): Promise<string> {
  const path = join(folder, `${Math.random()}.zip`)
  await pipeline(packMaterials(...given), createWriteStream(path))
  return path
}

it('what goes in comes out, names that are alike told apart', async () => {
  const documents = [sheet(), { ...sheet(), seed: 9 }, documentOf({ name: 'Ölfass / rot' })]
  const path = await packed(documents, [image('grain.png', 'one'), image('grain.png', 'two')])
  const found = await unpackMaterials(path)
  expect(found.documents).toEqual(documents)
  expect(found.images.map(({ path: at }) => at)).toEqual(['images/grain.png', 'images/grain 2.png'])
  expect(await Promise.all(found.images.map(async ({ read }) => (await buffer(await read())).toString()))).toEqual([
    'one',
    'two',
  ])
  found.close()
  // Equal contents, equal bytes.
  expect(readFileSync(await packed(documents, [image('grain.png', 'one'), image('grain.png', 'two')]))).toEqual(
    readFileSync(path),
  )
})

it('Python’s zipfile, which knows nothing of us, finds every file whole', async () => {
  const path = await packed([documentOf({ name: 'Slate' })], [image('scan.png', 'x'.repeat(1000))])
  const names = execFileSync('python3', [
    '-c',
    'import sys, zipfile; z = zipfile.ZipFile(sys.argv[1]); print(z.testzip(), *z.namelist())',
    path,
  ])
  expect(names.toString().trim()).toBe('None Slate.json images/scan.png')
})

it('images are named anew in nodes, dials and presets', () => {
  const document = documentOf({
    nodes: { i: { type: 'image', params: { image: 'images/a.png' } } },
    dials: [{ id: 'd', label: 'D', kind: 'image', default: 'images/a.png', value: 'images/b.png', drives: [] }],
    presets: { p: { name: 'P', values: { d: 'images/b.png' } } },
  })
  const renamed = withImages(
    document,
    new Map([
      ['images/a.png', 'sha256:a'],
      ['images/b.png', 'sha256:b'],
    ]),
  )
  expect(renamed.nodes.i!.params).toEqual({ image: 'sha256:a' })
  expect(renamed.dials[0]).toMatchObject({ default: 'sha256:a', value: 'sha256:b' })
  expect(renamed.presets.p!.values).toEqual({ d: 'sha256:b' })
  expect(renamed.name).toBe(document.name)
})

it.each(['a/b', 'a:b', '<>', '..\\x', 'x\0y'])('%j becomes a name that every system keeps', (name) => {
  expect(plainName(name)).toMatch(/^[\p{L}\p{N} ._-]+$/u)
})

it('what is no such file is refused with the reason', async () => {
  const broken = join(folder, 'broken.zip')
  writeFileSync(broken, 'PK no')
  await expect(unpackMaterials(broken)).rejects.toThrow('this is none')
  const zipped = async (files: Record<string, string>): Promise<string> => {
    const zip = new ZipFile()
    for (const [name, text] of Object.entries(files)) zip.addBuffer(Buffer.from(text), name)
    zip.end()
    const path = join(folder, `${Math.random()}.zip`)
    await pipeline(zip.outputStream as Readable, createWriteStream(path))
    return path
  }
  await expect(unpackMaterials(await zipped({ 'notes.txt': 'x' }))).rejects.toThrow('There is no material')
  await expect(unpackMaterials(await zipped({ 'a.json': '{' }))).rejects.toThrow('This is no JSON')
  await expect(unpackMaterials(await zipped({ 'a.json': '{"format":"x"}' }))).rejects.toMatchObject({
    code: 'document-invalid',
    place: { file: 'a.json' },
  })
})
