import parseRange from 'range-parser'
import { createHash } from 'node:crypto'
import { Readable } from 'node:stream'
import { createReadableStreamFromReadable } from '@react-router/node'
import type { Knex } from 'knex'
import { Problem } from '../http/problem.server'
import { database, one } from '../database/database.server'

/** Bytes a row holds; larger ones cost memory, smaller ones time. */
const CHUNK = 1 << 20

export interface Blob {
  readonly sha256: string
  readonly bytes: number
}

/**
 * Stores a stream by its content and tells its hash. Equal content is kept once. Runs in the given transaction, so that
 * nothing of a stream that breaks off stays. Throws a Problem above `max` bytes, or where the hash is not `expected`.
 */
export async function putBlob(
  transaction: Knex.Transaction,
  source: AsyncIterable<Uint8Array>,
  { max = Infinity, expected }: { max?: number; expected?: string } = {},
): Promise<Blob> {
  // The key is known at the end only: chunks go under a name of their own first.
  const draft = `draft-${crypto.randomUUID()}`
  await transaction('blobs').insert({ sha256: draft, bytes: 0 })
  const hash = createHash('sha256')
  let bytes = 0
  let index = 0
  let pending: Uint8Array[] = []
  let filled = 0
  const flush = async (): Promise<void> => {
    if (filled === 0) return
    await transaction('blob_chunks').insert({ sha256: draft, index: index++, bytes: Buffer.concat(pending, filled) })
    pending = []
    filled = 0
  }
  for await (const part of source) {
    bytes += part.length
    if (bytes > max) throw new Problem(413, `Expected at most ${Math.floor(max / 1048576)} MB.`)
    hash.update(part)
    for (let at = 0; at < part.length;) {
      const take = part.subarray(at, at + CHUNK - filled)
      pending.push(take)
      filled += take.length
      at += take.length
      if (filled === CHUNK) await flush()
    }
  }
  await flush()
  const sha256 = hash.digest('hex')
  if (expected !== undefined && expected !== sha256)
    throw new Problem(
      422,
      `The bytes that arrived are not those that were sent: expected SHA-256 ${expected} but received ${sha256}. Send the file again.`,
    )
  // Two at once: the second waits here for the first, and then finds it.
  const inserted = await transaction('blobs')
    .insert({ sha256, bytes })
    .onConflict('sha256')
    .ignore()
    .returning('sha256')
  if (inserted.length > 0) await transaction('blob_chunks').where({ sha256: draft }).update({ sha256 })
  await transaction('blobs').where({ sha256: draft }).delete()
  return { sha256, bytes }
}

/** Bytes that images and deliveries of this installation may take; GRIST_QUOTA_GB sets another number. */
const quotaBytes = (): number => Number(process.env.GRIST_QUOTA_GB ?? 200) * 2 ** 30

/** Bytes that are kept, and how many may be. */
export async function usedBytes(db: Knex = database()): Promise<{ used: number; quota: number }> {
  const row = await one<{ used: number }>(db.raw('select coalesce(sum(bytes), 0)::float as used from blobs'))
  return { used: row!.used, quota: quotaBytes() }
}

/** Throws a Problem 507 where `bytes` more would go beyond what this installation may keep. */
export async function checkQuota(db: Knex, bytes: number): Promise<void> {
  const { used, quota } = await usedBytes(db)
  if (used + bytes > quota)
    throw new Problem(
      507,
      `This installation keeps ${inGb(used)} of at most ${inGb(quota)} GB, and this would need ${inGb(bytes)} more. Delete projects that are no longer needed, or raise GRIST_QUOTA_GB.`,
    )
}

const inGb = (bytes: number): string => (bytes / 2 ** 30).toFixed(2)

export async function blobBytes(sha256: string): Promise<number | null> {
  const row = await database()('blobs').where({ sha256 }).first<{ bytes: string } | undefined>('bytes')
  return row ? Number(row.bytes) : null
}

/** Bytes `from` to `to` (exclusive), a chunk at a time. */
export async function* readBlob(sha256: string, from = 0, to = Infinity): AsyncGenerator<Uint8Array> {
  for (let index = Math.floor(from / CHUNK); index * CHUNK < to; index++) {
    const row = await database()('blob_chunks').where({ sha256, index }).first<{ bytes: Buffer } | undefined>('bytes')
    if (!row) return
    const start = Math.max(0, from - index * CHUNK)
    const end = Math.min(row.bytes.length, to - index * CHUNK)
    yield row.bytes.subarray(start, end)
  }
}

export async function wholeBlob(sha256: string): Promise<Buffer> {
  const parts: Uint8Array[] = []
  for await (const part of readBlob(sha256)) parts.push(part)
  return Buffer.concat(parts)
}

/** A blob as an answer; one range of bytes may be asked for (RFC 9110, section 14). */
export async function blobResponse(
  request: Request,
  sha256: string,
  headers: Record<string, string>,
): Promise<Response> {
  const bytes = await blobBytes(sha256)
  if (bytes === null) throw new Problem(404, 'These bytes are not here any more.')
  const tag = `"${sha256}"`
  const common = {
    'Accept-Ranges': 'bytes',
    ETag: tag,
    'Cache-Control': 'private, no-transform, max-age=0',
    ...headers,
  }
  const conditional = request.headers.get('If-Range')
  const range = conditional === null || conditional === tag ? rangeOf(request.headers.get('Range'), bytes) : null
  if (range === 'outside') return new Response(null, { status: 416, headers: { 'Content-Range': `bytes */${bytes}` } })
  const [from, to] = range ?? [0, bytes]
  const head = {
    ...common,
    'Content-Length': String(to - from),
    ...(range ? { 'Content-Range': `bytes ${from}-${to - 1}/${bytes}` } : {}),
  }
  const body =
    request.method === 'HEAD' ? null : createReadableStreamFromReadable(Readable.from(readBlob(sha256, from, to)))
  return new Response(body, { status: range ? 206 : 200, headers: head })
}

/** [from, to) of a single range; null where the whole is meant. */
function rangeOf(header: string | null, bytes: number): [number, number] | 'outside' | null {
  const ranges = header === null ? -2 : parseRange(bytes, header)
  if (ranges === -1) return 'outside'
  if (ranges === -2 || ranges.type !== 'bytes' || ranges.length !== 1) return null
  return [ranges[0]!.start, ranges[0]!.end + 1]
}
