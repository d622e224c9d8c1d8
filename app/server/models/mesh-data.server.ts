import { promisify } from 'node:util'
import { gunzip } from 'node:zlib'
import type { RasterShape } from '#core/field/raster'
import type { Field } from '#core/field/field'
import { bakerNamed } from '#core/mesh/mesh-data'
import type { MeshDataPlace } from '#core/mesh/mesh-data'
import { imageOfMeshData, meshDataField, meshDataShape } from '#core/mesh/mesh-data-raster'
import type { MeshDataKind } from '#core/graph/mesh-data-kinds'
import type { RasterImage } from '#core/field/pyramid'
import { GristError } from '#core/errors'
import type { Knex } from 'knex'
import { broughtIn } from '#core/mesh/brought-in'
import type { BroughtInAs } from '#core/mesh/brought-in'
import type { ShownScale } from '#core/mesh/baker'
import type { DevelopedMeshData } from '#runtime/node/developed-mesh-data'
import { developed } from '#runtime/node/developed-mesh-data'
import { findAsset, library } from '../assets/assets.server'
import { database } from '../database/database.server'
import { Problem } from '../http/problem.server'
import type { MeshClaim } from '../runs/runs.server'
import { blobResponse, checkQuota, putBlob, wholeBlob } from '../storage/blobs.server'

const unpacked = promisify(gunzip) as (bytes: Uint8Array) => Promise<Buffer>

/** Mesh data as a bake has made them. */
export interface MadeMeshData extends MeshDataPlace {
  readonly key: string
  readonly shape: RasterShape
  readonly missed: number
  readonly made: DevelopedMeshData
  readonly record: object
}

/**
 * Keeps mesh data in place of those before. False, and nothing is kept, where the run is no longer the one at work. Throws a Problem 507
 * where they do not fit.
 */
export async function saveMeshData(
  { id, attempt, modelId }: MeshClaim,
  { shape, part, kind, udim, key, missed, made, record }: MadeMeshData,
): Promise<boolean> {
  return database().transaction(async (transaction) => {
    const { rows } = await transaction.raw<{ rows: unknown[] }>(
      `select 1 from runs where id = ? and attempt = ? and state = 'running' and not cancel_asked for share`,
      [id, attempt],
    )
    if (rows.length === 0) return false
    const sha256 = await keepBytes(transaction, made)
    await keepRow(
      transaction,
      modelId,
      { part, kind, udim },
      {
        ...{ key, sha256, missed, shape, record },
        ...picturesOf(made),
      },
    )
    return true
  })
}

/** Bytes are hashed and sent in pieces, between which the process is heard of. */
const PIECE = 1 << 20

async function* piecesOf(bytes: Uint8Array): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += PIECE) yield bytes.subarray(at, at + PIECE)
}

async function keepBytes(transaction: Knex.Transaction, { packed }: DevelopedMeshData): Promise<string> {
  await checkQuota(transaction, packed.length)
  return (await putBlob(transaction, piecesOf(packed))).sha256
}

const picturesOf = ({ picture, swatch, missedPicture }: DevelopedMeshData) => ({
  picture: Buffer.from(picture),
  swatch: Buffer.from(swatch),
  missed_picture: missedPicture && Buffer.from(missedPicture),
})

interface DataRow {
  readonly sha256: string
  readonly shape: RasterShape
  readonly picture: Buffer
  readonly swatch: Buffer
  readonly missed_picture: Buffer | null
  readonly record: object
}

async function rowOf<C extends keyof DataRow>(
  modelId: string,
  { part, kind, udim }: MeshDataPlace,
  ...columns: C[]
): Promise<Pick<DataRow, C>> {
  const row = await database()('mesh_data')
    .where({ model_id: modelId, part, kind, udim })
    .first<Pick<DataRow, C> | undefined>(...columns)
  if (!row) throw new Problem(404, 'These mesh data have not been made yet.')
  return row as Pick<DataRow, C>
}

export const meshDataSwatch = async (modelId: string, place: MeshDataPlace): Promise<Buffer> =>
  (await rowOf(modelId, place, 'swatch')).swatch

export const meshDataPicture = async (modelId: string, place: MeshDataPlace): Promise<Buffer> =>
  (await rowOf(modelId, place, 'picture')).picture

export async function missedPicture(modelId: string, place: MeshDataPlace): Promise<Buffer> {
  const { missed_picture } = await rowOf(modelId, place, 'missed_picture')
  if (!missed_picture) throw new Problem(404, 'The high twin was met everywhere.')
  return missed_picture
}

export const meshDataRecord = async (modelId: string, place: MeshDataPlace): Promise<object> =>
  (await rowOf(modelId, place, 'record')).record

/** The key of mesh data that were brought in, not baked: they are of the mesh whose hash it has. */
export const broughtInKey = (mesh: string): string => `brought in, ${mesh}`

/** Keeps an image of the library as mesh data of a part. Throws mesh-invalid, a Problem 404 where there is no such image. */
export async function bringInMeshData(
  modelId: string,
  mesh: string,
  scale: ShownScale,
  place: MeshDataPlace,
  image: string,
  meaning: BroughtInAs,
): Promise<void> {
  const baker = bakerNamed(place.kind)
  if (!baker) throw new Problem(404, 'There is no such kind of mesh data.')
  const found = await findAsset(image)
  if (!found) throw new Problem(404, 'There is no such image.')
  const field = broughtIn(baker, await library.load(`sha256:${image}`), meaning, scale)
  const made = await developed({ kind: place.kind, field, scale })
  await database().transaction(async (transaction) => {
    const sha256 = await keepBytes(transaction, made)
    const record = {
      format: 'amber-grist/mesh-data',
      version: 1,
      broughtIn: { image, name: found.name, meaning },
      place,
    }
    await keepRow(transaction, modelId, place, {
      ...{ key: broughtInKey(mesh), sha256, missed: 0 },
      ...picturesOf(made),
      shape: meshDataShape(baker, field.width, field.height),
      record,
    })
  })
}

interface KeptRow {
  readonly key: string
  readonly sha256: string
  readonly missed: number
  readonly picture: Buffer
  readonly swatch: Buffer
  readonly missed_picture: Buffer | null
  readonly shape: RasterShape
  readonly record: object
}

async function keepRow(
  transaction: Knex.Transaction,
  modelId: string,
  { part, kind, udim }: MeshDataPlace,
  { shape, record, ...rest }: KeptRow,
): Promise<void> {
  const values = { ...rest, shape: JSON.stringify(shape), record: JSON.stringify(record) }
  await transaction('mesh_data')
    .insert({ model_id: modelId, part, kind, udim, ...values })
    .onConflict(['model_id', 'part', 'kind', 'udim'])
    .merge({ ...values, created_at: transaction.fn.now() })
}

/** Mesh data as they were made: a field. */
export async function keptMeshData(modelId: string, place: MeshDataPlace): Promise<Field> {
  const { sha256, shape } = await rowOf(modelId, place, 'sha256', 'shape')
  return meshDataField(bakerNamed(place.kind), shape, new Uint8Array(await unpacked(await wholeBlob(sha256))))
}

/** What an engine calls an image that mesh data are, by the hash of the bytes they are kept as. */
export const meshDataName = (sha256: string): string => `mesh-data:${sha256}`

interface KeptData {
  readonly sha256: string
  readonly kind: MeshDataKind
  readonly shape: RasterShape
}

async function dataOf(sha256: string): Promise<KeptData> {
  const row = await database()('mesh_data').where({ sha256 }).first<KeptData | undefined>('sha256', 'kind', 'shape')
  if (!row) throw new GristError('mesh-data-missing', 'The mesh data that this was made of have been baked anew since.')
  return row
}

/** Mesh data by the name of their image. Throws mesh-data-missing. */
export async function meshDataImage(name: string): Promise<RasterImage> {
  const { sha256, kind, shape } = await dataOf(name.replace(/^mesh-data:/, ''))
  return imageOfMeshData(kind, shape, new Uint8Array(await unpacked(await wholeBlob(sha256))))
}

/** The same as bytes for a page. X-Raster tells their shape, X-Kind what they are. */
export async function meshDataBlob(request: Request, sha256: string): Promise<Response> {
  const { kind, shape } = await dataOf(sha256)
  return blobResponse(request, sha256, {
    'Content-Type': 'application/octet-stream',
    'Content-Encoding': 'gzip',
    'X-Raster': JSON.stringify(shape),
    'X-Kind': kind,
    'Cache-Control': 'private, no-transform, max-age=31536000, immutable',
  })
}

/** The same as bytes for a page; X-Raster tells their shape. */
export async function meshDataResponse(request: Request, modelId: string, place: MeshDataPlace): Promise<Response> {
  const { sha256, shape } = await rowOf(modelId, place, 'sha256', 'shape')
  return blobResponse(request, sha256, {
    'Content-Type': 'application/octet-stream',
    'Content-Encoding': 'gzip',
    'X-Raster': JSON.stringify(shape),
  })
}

/** Which keys a model's mesh data have, by part, kind and tile. */
export async function keysOf(modelId: string): Promise<Map<string, string>> {
  const rows = await database()('mesh_data')
    .where({ model_id: modelId })
    .select<(MeshDataPlace & { key: string })[]>('part', 'kind', 'udim', 'key')
  return new Map(rows.map((row) => [placeName(row), row.key]))
}

export const placeName = ({ part, kind, udim }: MeshDataPlace): string => `${part}/${kind}/${udim}`
