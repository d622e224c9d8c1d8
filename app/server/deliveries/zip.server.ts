import { createReadStream } from 'node:fs'
import { join } from 'node:path'
import type { Readable } from 'node:stream'
import { ZipFile } from 'yazl'

/** All entries carry this moment, so that equal contents give equal bytes. */
const MOMENT = new Date(2000, 0, 1)

/** A ZIP of a folder's files, in the given order, as a stream. Maps are packed already and are stored as they are. */
export function zipOf(folder: string, names: readonly string[]): Readable {
  const zip = new ZipFile()
  zip.on('error', (error) => (zip.outputStream as Readable).destroy(error as Error))
  for (const name of names)
    zip.addReadStreamLazy(name, { mtime: MOMENT, mode: 0o100644, compress: false, forceDosTimestamp: true }, (give) =>
      give(null, createReadStream(join(folder, name))),
    )
  zip.end()
  return zip.outputStream as Readable
}
