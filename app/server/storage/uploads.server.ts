import { createHash } from 'node:crypto'
import { once } from 'node:events'
import { createWriteStream } from 'node:fs'
import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import { finished } from 'node:stream/promises'
import { ownFolder } from '#runtime/node/own-folders'
import { Problem } from '../http/problem.server'

/** Files that one client, and all together, may send at the same time. */
const LIMIT = { client: 8, all: 32 }

const open = new Map<string, number>()

/** A file that has arrived whole, on this machine's disk. */
export interface Spooled {
  readonly sha256: string
  readonly bytes: number
  /** Whose it is. */
  readonly client: string
  /** Where it lies; its folder is its own. */
  readonly path: string
}

/**
 * Receives a file on disk and hands it to `work`; no connection of the database is held while it arrives. It is removed
 * afterwards whatever happens. Throws a Problem 422 where the hash is not the expected one, 429 where a client sends too many
 * at once.
 */
export async function spooled<T>(
  client: string,
  parts: AsyncIterable<Uint8Array>,
  expected: string | undefined,
  work: (file: Spooled) => Promise<T>,
): Promise<T> {
  const all = [...open.values()].reduce((sum, count) => sum + count, 0)
  if ((open.get(client) ?? 0) >= LIMIT.client || all >= LIMIT.all)
    throw new Problem(429, 'Too many files are being sent at the same time. Send this one when another is done.')
  open.set(client, (open.get(client) ?? 0) + 1)
  try {
    return await receive(client, parts, expected, work)
  } finally {
    const left = open.get(client)! - 1
    if (left > 0) open.set(client, left)
    else open.delete(client)
  }
}

async function receive<T>(
  client: string,
  parts: AsyncIterable<Uint8Array>,
  expected: string | undefined,
  work: (file: Spooled) => Promise<T>,
): Promise<T> {
  const folder = await ownFolder()
  try {
    const path = join(folder, 'file')
    const hash = createHash('sha256')
    let bytes = 0
    const file = createWriteStream(path)
    const done = finished(file)
    // What goes wrong on disk is thrown where the next part is written, or at the end.
    done.catch(() => {})
    for await (const part of parts) {
      hash.update(part)
      bytes += part.length
      if (!file.write(part)) await Promise.race([once(file, 'drain'), done])
    }
    file.end()
    await done
    const sha256 = hash.digest('hex')
    if (expected !== undefined && expected !== sha256)
      throw new Problem(
        422,
        `The bytes that arrived are not those that were sent: expected SHA-256 ${expected} but received ${sha256}. Send the file again.`,
      )
    return await work({ sha256, bytes, client, path })
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}
