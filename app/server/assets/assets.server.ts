import type { Asset, ShelfImage } from '../../contracts/asset'
import { createReadStream } from 'node:fs'
import { cutText } from '#core/cut-text'
import type { ImageLoader } from '#core/engine/pyramids'
import { valuesOfRaster } from '#core/field/raster'
import { GristError } from '#core/errors'
import type { MaterialDocument } from '#core/document/document'
import { LIMITS } from '#core/limits'
import { imagesOf } from '#runtime/node/assets'
import { decodeForLibrary } from '#runtime/node/read-image'
import { checkQuota, putBlob, wholeBlob } from '../storage/blobs.server'
import { database } from '../database/database.server'
import { Problem } from '../http/problem.server'
import type { Spooled } from '../storage/uploads.server'
import { spooled } from '../storage/uploads.server'

/** An image of the library as any project has it. */
export type StoredImage = Omit<Asset, 'here'>

const COLUMNS = ['sha256', 'name', 'width', 'height', 'channels', 'bits', 'float'] as const

/**
 * Imports an image that has arrived: it is decoded once on a guarded thread, and kept as plain texels too, so that every
 * browser and every bake reads the same numbers. One that is known already is kept as new: its day of grace begins again.
 */
export async function importFile(file: Spooled, name: string): Promise<StoredImage> {
  const { rowCount } = await database().raw<{ rowCount: number }>(
    'update assets set created_at = now(), deleted_at = null where sha256 = ?',
    [file.sha256],
  )
  if (rowCount > 0) return (await findAsset(file.sha256))!
  const rasterPath = `${file.path}-texels`
  const image = await decodeForLibrary(file.path, rasterPath, { file: name, bytes: file.bytes, client: file.client })
  await database().transaction(async (transaction) => {
    await checkQuota(transaction, file.bytes + image.rasterBytes)
    const blob = await putBlob(transaction, createReadStream(file.path), { expected: file.sha256 })
    const raster = await putBlob(transaction, createReadStream(rasterPath, { highWaterMark: 1 << 20 }))
    const { width, height, channels, bits, float } = image
    await transaction('assets')
      .insert({
        sha256: blob.sha256,
        raster_sha256: raster.sha256,
        name: cutText(name, LIMITS.name),
        width,
        height,
        channels,
        bits,
        float,
        thumbnail: Buffer.from(image.thumbnail),
      })
      .onConflict('sha256')
      .ignore()
  })
  return (await findAsset(file.sha256))!
}

/** The same from a stream, as the demo and tests have it. */
export const importImage = (source: AsyncIterable<Uint8Array>, name: string, expected?: string): Promise<StoredImage> =>
  spooled('here', source, expected, (file) => importFile(file, name))

export async function findAsset(sha256: string): Promise<StoredImage | null> {
  return (
    (await database()('assets')
      .where({ sha256 })
      .first<StoredImage | undefined>(...COLUMNS)) ?? null
  )
}

/** Materials that name an image, now or in an earlier state, and are not deleted themselves. */
const USES = `from asset_uses u join documents d on d.id = u.document_id and d.deleted_at is null
  join projects p on p.id = d.project_id and p.deleted_at is null where u.sha256 = assets.sha256`

/** The newest images. One that a material names is never gone, whatever else was deleted meanwhile. */
const listed = () =>
  database()('assets')
    .whereRaw(`(deleted_at is null or exists (select 1 ${USES}))`)
    .orderBy('created_at', 'desc')
    .limit(500)

/** Whether an image belongs to a project: it was brought in there, or a material there names it. */
const here = (project: string) =>
  database().raw(
    `(exists (select 1 from project_images i where i.sha256 = assets.sha256 and i.project_id = ?)
      or exists (select 1 ${USES} and d.project_id = ?)) as here`,
    [project, project],
  )

export const listAssets = async (project: string): Promise<Asset[]> =>
  (await listed().select(...COLUMNS, here(project))) as Asset[]

export async function listShelf(project: string): Promise<ShelfImage[]> {
  const uses = `coalesce((select json_agg(json_build_object('id', d.id, 'name', d.name, 'project', p.name) order by d.name) ${USES}), '[]')`
  return (await listed().select(...COLUMNS, here(project), database().raw(`${uses} as "usedIn"`))) as ShelfImage[]
}

/** Has an image belong to a project. Throws a Problem 404. */
export async function bringIntoProject(sha256: string, project: string): Promise<void> {
  const { rowCount } = await database().raw<{ rowCount: number }>(
    `insert into project_images (project_id, sha256) select p.id, a.sha256 from projects p, assets a
     where p.id = ? and a.sha256 = ? on conflict (project_id, sha256) do update set sha256 = excluded.sha256`,
    [project, sha256],
  )
  if (rowCount === 0) throw new Problem(404, 'There is no such project, or no such image.')
}

export async function renameAsset(sha256: string, name: string): Promise<void> {
  if ((await database()('assets').where({ sha256 }).update({ name })) === 0)
    throw new Problem(404, 'There is no such image.')
}

/** Takes an image from the shelf, or puts it back. Throws a Problem 409 while a material names it. */
export async function setAssetDeleted(sha256: string, deleted: boolean): Promise<void> {
  const changed = await database()('assets')
    .where({ sha256 })
    .whereRaw(deleted ? `not exists (select 1 ${USES})` : 'true')
    .update({ deleted_at: deleted ? database().fn.now() : null })
  if (changed > 0) return
  throw (await findAsset(sha256))
    ? new Problem(409, 'A material uses this image, or did in an earlier state.')
    : new Problem(404, 'There is no such image.')
}

export async function thumbnail(sha256: string): Promise<Buffer> {
  const row = await database()('assets').where({ sha256 }).first<{ thumbnail: Buffer } | undefined>('thumbnail')
  if (!row) throw new Problem(404, 'There is no such image.')
  return row.thumbnail
}

/** An image with the blob that holds its decoded texels. */
export async function rasterOf(sha256: string): Promise<{ asset: StoredImage; rasterSha256: string }> {
  const row = await database()('assets')
    .where({ sha256 })
    .first<(StoredImage & { raster_sha256: string }) | undefined>()
  if (!row) throw new Problem(404, 'There is no such image.')
  return { asset: row, rasterSha256: row.raster_sha256 }
}

/** The library's images by content, for the engine. */
export const library: ImageLoader = {
  load: async (name) => {
    const sha256 = hashIn(name)
    if (!(await findAsset(sha256))) throw new GristError('asset-missing', `The image ${name} is not in the library.`)
    const { asset, rasterSha256 } = await rasterOf(sha256)
    return { ...asset, values: valuesOfRaster(await wholeBlob(rasterSha256), asset) }
  },
}

function hashIn(image: string): string {
  const match = /^sha256:([0-9a-f]{64})$/.exec(image)
  if (!match)
    throw new GristError(
      'asset-missing',
      `Expected an image of the library ("sha256:…") but received ${JSON.stringify(image)}.`,
    )
  return match[1]!
}

/** The hashes of all images a document names, by the name used there. */
export const assetHashes = (document: MaterialDocument): Record<string, string> =>
  Object.fromEntries(imagesOf(document).map((image) => [image, hashIn(image)]))

/** Removes bytes that nothing names, once they are a day old: what broke off between two steps. The library is kept. */
export async function sweep(graceHours = 24): Promise<number> {
  const { rowCount } = await database().raw<{ rowCount: number }>(
    `delete from blobs b where b.created_at < now() - interval '${Number(graceHours)} hours'
     and not exists (select 1 from assets a where a.sha256 = b.sha256 or a.raster_sha256 = b.sha256)
     and not exists (select 1 from deliveries v where v.zip_sha256 = b.sha256)
     and not exists (select 1 from model_deliveries v where v.zip_sha256 = b.sha256)
     and not exists (select 1 from mesh_data d where d.sha256 = b.sha256)
     and not exists (select 1 from meshes m where m.sha256 = b.sha256)`,
  )
  return rowCount
}
