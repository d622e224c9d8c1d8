import type { ComparedMap } from '../../contracts/compared-map'
import type { Readable } from 'node:stream'
import { Readable as NodeReadable } from 'node:stream'
import type { Entry } from 'yauzl'
import { RandomAccessReader, fromRandomAccessReaderPromise } from 'yauzl'
import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'
import type { KeptFile } from '#core/texture/kept-file'
import { keptFiles } from '#core/texture/kept-file'
import type { DeliveryRecord, RecordFile } from '#core/texture/record'
import { isSameFile } from '#core/texture/record'
import type { MapComparison } from '#runtime/node/image-task'
import { compareImages, decodeMip } from '#runtime/node/read-image'
import { blobBytes, readBlob } from '../storage/blobs.server'
import { database } from '../database/database.server'
import { findDelivery } from './deliveries.server'
import { Problem } from '../http/problem.server'

/** A ZIP in the database, read only where it is asked for. */
class BlobReader extends RandomAccessReader {
  constructor(private readonly sha256: string) {
    super()
  }

  override _readStreamForRange(start: number, end: number): Readable {
    return NodeReadable.from(readBlob(this.sha256, start, end))
  }
}

/** A file out of a delivery, as it was written. */
export async function deliveredFile(deliveryId: string, index: number): Promise<{ file: RecordFile; bytes: Buffer }> {
  const { file, stream } = await deliveredStream(deliveryId, index)
  const parts: Uint8Array[] = []
  for await (const part of stream) parts.push(part as Uint8Array)
  return { file, bytes: Buffer.concat(parts) }
}

/** The same as a stream. */
async function deliveredStream(deliveryId: string, index: number): Promise<{ file: RecordFile; stream: Readable }> {
  const { record, zip_sha256: sha256 } = await findDelivery(deliveryId)
  const file = record.files[index]
  if (!file) throw new Problem(404, 'The delivery has no such file.')
  return { file, stream: await zippedFile(sha256, file.name) }
}

/** A file out of a ZIP in the database, as a stream. Throws a Problem 404. */
async function zippedFile(sha256: string, name: string): Promise<Readable> {
  const size = await blobBytes(sha256)
  if (size === null) throw new Problem(404, 'These bytes are not here any more.')
  const zip = await fromRandomAccessReaderPromise(new BlobReader(sha256), size, { lazyEntries: true, autoClose: false })
  const entry = await new Promise<Entry | null>((found, failed) => {
    zip.on('entry', (one: Entry) => (one.fileName === name ? found(one) : zip.readEntry()))
    zip.on('end', () => found(null))
    zip.on('error', failed)
    zip.readEntry()
  })
  if (!entry) throw new Problem(404, `The delivery’s ZIP has no file ${name}.`)
  return zip.openReadStreamPromise(entry)
}

/** Deliveries of a document whose files may stand in a new one. */
const KEPT_FROM = 12

/** Files of a document's latest deliveries, by what they come from. */
export async function keptFilesOf(documentId: string): Promise<Map<string, KeptFile>> {
  const deliveries = await database()('deliveries')
    .where({ document_id: documentId })
    .orderBy('created_at', 'desc')
    .limit(KEPT_FROM)
    .select<{ id: string; files: DeliveryRecord['files'] }[]>('id', database().raw("record->'files' as files"))
  return keptFiles(
    deliveries.map(({ id, files }) => ({ record: { files }, from: id })),
    async (id, index, output) => {
      const { stream } = await deliveredStream(id, index)
      for await (const part of stream) output.append(part as Uint8Array)
    },
  )
}

/** Files of a model's latest deliveries, of all its parts, by what they come from. */
export async function keptFilesOfModel(model: string): Promise<Map<string, KeptFile>> {
  const rows = await database()('model_deliveries')
    .where({ model_id: model })
    .orderBy('created_at', 'desc')
    .limit(KEPT_FROM)
    .select<{ zip: string; sets: { folder: string; files: DeliveryRecord['files'] }[] }[]>(
      'zip_sha256 as zip',
      database().raw("coalesce(record->'sets', record->'parts') as sets"),
    )
  const deliveries = rows.flatMap(({ zip, sets }) =>
    sets.map(({ folder, files }) => ({ record: { files }, from: { zip, folder, files } })),
  )
  return keptFiles(deliveries, async ({ zip, folder, files }, index, output) => {
    const stream = await zippedFile(zip, `${folder}/${files[index]!.name}`)
    for await (const piece of stream) output.append(piece as Uint8Array)
  })
}

/** A delivered file decoded, at a mip level. */
export async function deliveredRaster(deliveryId: string, index: number, mip: number): Promise<RasterImage> {
  const { file, bytes } = await deliveredFile(deliveryId, index)
  return decodeMip(bytes, file.name, { level: mip, transfer: file.transfer, slots: file.slots })
}

/** Which maps two deliveries share, by name in the packing. */
export async function compareDeliveries(beforeId: string, afterId: string): Promise<ComparedMap[]> {
  const [before, after] = await Promise.all([findDelivery(beforeId), findDelivery(afterId)])
  const fileOf = (files: readonly RecordFile[], map: string): (RecordFile & { index: number }) | null => {
    const index = files.findIndex((file) => file.map === map)
    return index < 0 ? null : { index, ...files[index]! }
  }
  const maps = new Set([...after.record.files, ...before.record.files].map(({ map }) => map))
  return [...maps].map((map) => {
    const [a, b] = [fileOf(before.record.files, map), fileOf(after.record.files, map)]
    const plain = (one: typeof a) => one && { index: one.index, name: one.name }
    return { map, before: plain(a), after: plain(b), same: a !== null && isSameFile(a, b) }
  })
}

/** How far one map of two deliveries is apart, with pictures of both and of the difference, `gain` times as much as it is. */
export async function compareMap(
  beforeId: string,
  afterId: string,
  map: string,
  gain: number | null,
): Promise<MapComparison> {
  const found = (await compareDeliveries(beforeId, afterId)).find((one) => one.map === map)
  if (!found?.before || !found.after)
    throw new GristError('file-invalid', `Only one of the two deliveries has a map "${map}".`)
  const [a, b] = await Promise.all([
    deliveredFile(beforeId, found.before.index),
    deliveredFile(afterId, found.after.index),
  ])
  return compareImages(a, b, gain)
}
