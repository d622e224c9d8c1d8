import type { Allocate } from '#core/field/field'
import type { ImagePyramid, ImageRequest } from '#core/field/pyramid'
import { makePyramid } from '#core/field/pyramid'
import { valuesOfRaster } from '#core/field/raster'
import { GristError } from '#core/errors'
import type { MaterialDocument } from '#core/graph/document'
import { LIMITS } from '#core/limits'
import { imagesOf } from '#runtime/node/assets'
import { decodeForLibrary } from '#runtime/node/read-image'
import { putBlob, wholeBlob } from './blobs.server'
import { database } from './database.server'
import { Problem } from './problem.server'

export interface Asset {
  readonly sha256: string
  readonly name: string
  readonly width: number
  readonly height: number
  readonly channels: 1 | 2 | 3 | 4
  readonly bits: 8 | 16 | 32
  readonly float: boolean
}

const COLUMNS = ['sha256', 'name', 'width', 'height', 'channels', 'bits', 'float'] as const

/**
 * Takes an image in: the file is streamed into the database with its hash checked, decoded once on a guarded thread, and
 * kept as plain texels too, so that every browser and every bake reads the same numbers.
 */
export async function importImage(source: AsyncIterable<Uint8Array>, name: string, expected?: string): Promise<Asset> {
  const blob = await database().transaction((transaction) =>
    putBlob(transaction, source, { most: LIMITS.image.bytes, expected }),
  )
  const known = await findAsset(blob.sha256)
  if (known) return known
  // A file that cannot be read stays unnamed, and is swept.
  const image = await decodeForLibrary(await wholeBlob(blob.sha256), name)
  await database().transaction(async (transaction) => {
    const raster = await putBlob(transaction, parts(image.raster))
    const { width, height, channels, bits, float } = image
    await transaction('assets')
      .insert({
        sha256: blob.sha256,
        raster_sha256: raster.sha256,
        name: name.slice(0, LIMITS.name),
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
  return (await findAsset(blob.sha256))!
}

async function* parts(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += 1 << 20) yield bytes.subarray(at, at + (1 << 20))
}

export async function findAsset(sha256: string): Promise<Asset | null> {
  return (
    (await database()('assets')
      .where({ sha256 })
      .first<Asset | undefined>(...COLUMNS)) ?? null
  )
}

export async function listAssets(): Promise<Asset[]> {
  return (await database()('assets')
    .orderBy('created_at', 'desc')
    .limit(500)
    .select(...COLUMNS)) as Asset[]
}

export async function thumbnail(sha256: string): Promise<Buffer> {
  const row = await database()('assets').where({ sha256 }).first<{ thumbnail: Buffer } | undefined>('thumbnail')
  if (!row) throw new Problem(404, 'There is no such image.')
  return row.thumbnail
}

/** An image with the blob that holds its decoded texels. */
export async function rasterOf(sha256: string): Promise<{ asset: Asset; rasterSha256: string }> {
  const row = await database()('assets').where({ sha256 }).first<(Asset & { raster_sha256: string }) | undefined>()
  if (!row) throw new Problem(404, 'There is no such image.')
  return { asset: row, rasterSha256: row.raster_sha256 }
}

/** Images by content for the engine. Throws asset-missing. */
export async function loadImage({ image, ...request }: ImageRequest, allocate: Allocate): Promise<ImagePyramid> {
  const sha256 = hashIn(image)
  if (!(await findAsset(sha256))) throw new GristError('asset-missing', `The image ${image} is not in the library.`)
  const { asset, rasterSha256 } = await rasterOf(sha256)
  return makePyramid(
    { ...asset, values: valuesOfRaster(await wholeBlob(rasterSha256), asset) },
    { image, ...request },
    allocate,
  )
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

/**
 * Removes images that no document has ever named, and bytes that nothing names, once they are a day old. What is being
 * taken in at this moment is younger.
 */
export async function sweep(graceHours = 24): Promise<{ images: number; blobs: number }> {
  const old = `now() - interval '${Number(graceHours)} hours'`
  const images = await database().raw<{ rowCount: number }>(
    `delete from assets a where a.created_at < ${old}
     and not exists (select 1 from asset_uses u where u.sha256 = a.sha256)
     and not exists (select 1 from deliveries v, jsonb_each_text(v.record->'assets') e where e.value = a.sha256)`,
  )
  const blobs = await database().raw<{ rowCount: number }>(
    `delete from blobs b where b.created_at < ${old}
     and not exists (select 1 from assets a where a.sha256 = b.sha256 or a.raster_sha256 = b.sha256)
     and not exists (select 1 from deliveries v where v.zip_sha256 = b.sha256)`,
  )
  return { images: images.rowCount, blobs: blobs.rowCount }
}
