import sharp from 'sharp'
import { parseDocument } from '#core/document/document'
import { database } from '../database/database.server'
import { purge } from '../database/purge.server'
import { addDocument, emptyMaterial, setDocumentDeleted } from '../projects/materials.server'
import { createProject } from '../projects/projects.server'
import { ownDatabase } from '../testing/own-database'
import { bringIntoProject, importImage, listAssets, listShelf, renameAsset, setAssetDeleted } from './assets.server'

ownDatabase()

const importPlain = async (background: string, name: string) => {
  const bytes = await sharp({ create: { width: 4, height: 4, channels: 3, background } })
    .png()
    .toBuffer()
  return importImage(
    (async function* () {
      yield bytes
    })(),
    name,
  )
}

const ANY = '00000000-0000-4000-8000-000000000000'
const names = async () => (await listAssets(ANY)).map(({ name }) => name).sort()
const old = () => database().raw(`update assets set deleted_at = deleted_at - interval '31 days'`)

test('an image is renamed, deleted and brought back; one that a material names says so and stays', async () => {
  const [used, loose] = [await importPlain('#102030', 'used.png'), await importPlain('#405060', 'loose.png')]
  const document = await addDocument(
    await createProject('Plates'),
    parseDocument({
      ...emptyMaterial('Slab'),
      nodes: { p: { type: 'image', params: { image: `sha256:${used.sha256}` } } },
    }),
  )
  await renameAsset(loose.sha256, 'Lock plate')
  expect(await names()).toEqual(['Lock plate', 'used.png'])
  const uses = Object.fromEntries((await listShelf(ANY)).map(({ name, usedIn }) => [name, usedIn]))
  expect(uses).toEqual({ 'Lock plate': [], 'used.png': [{ id: document, name: 'Slab', project: 'Plates' }] })
  await expect(setAssetDeleted(used.sha256, true)).rejects.toMatchObject({ status: 409 })
  await expect(setAssetDeleted('0'.repeat(64), true)).rejects.toMatchObject({ status: 404 })
  await setAssetDeleted(loose.sha256, true)
  expect(await names()).toEqual(['used.png'])
  await setAssetDeleted(loose.sha256, false)
  expect(await names()).toEqual(['Lock plate', 'used.png'])
  await setAssetDeleted(loose.sha256, true)
  await importPlain('#405060', 'again.png')
  expect(await names()).toEqual(['Lock plate', 'used.png'])

  // With its material deleted it can go; brought back, the material shows it again.
  await setDocumentDeleted(document, true)
  await setAssetDeleted(used.sha256, true)
  expect(await names()).toEqual(['Lock plate'])
  await setDocumentDeleted(document, false)
  expect(await names()).toEqual(['Lock plate', 'used.png'])
})

test('after thirty days a deleted image is gone for good, unless a material, deleted or not, names it', async () => {
  await setAssetDeleted((await listShelf(ANY)).find(({ usedIn }) => usedIn.length === 0)!.sha256, true)
  expect((await purge()).images).toBe(0)
  await old()
  expect((await purge()).images).toBe(1)
  expect(await names()).toEqual(['used.png'])
})

test('an image belongs to the project that it was brought into, and to those whose materials use it', async () => {
  const [one, other] = [await createProject('One'), await createProject('Other')]
  const { sha256 } = await importPlain('#778899', 'mine.png')
  const isHere = async (project: string) => (await listAssets(project)).find((asset) => asset.sha256 === sha256)!.here
  expect([await isHere(one), await isHere(other)]).toEqual([false, false])
  await bringIntoProject(sha256, one)
  await bringIntoProject(sha256, one)
  expect([await isHere(one), await isHere(other)]).toEqual([true, false])
  const nodes = { p: { type: 'image', params: { image: `sha256:${sha256}` } } }
  const document = await addDocument(other, parseDocument({ ...emptyMaterial('Slab'), nodes }))
  expect(await isHere(other)).toBe(true)
  await setDocumentDeleted(document, true)
  expect(await isHere(other)).toBe(false)
  await expect(bringIntoProject(sha256, ANY)).rejects.toMatchObject({ status: 404 })
})
