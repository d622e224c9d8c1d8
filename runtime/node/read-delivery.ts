import { closeSync, openSync, readSync } from 'node:fs'
import { join } from 'node:path'
import { GristError } from '#core/errors'
import { parseDocument } from '#core/graph/document'
import { channelsOf } from '#core/layers/expand'
import type { CheckSubject, CheckedFile } from '#core/maps/check'
import { parseRecord } from '#core/maps/record'
import type { DecodedFile } from '#core/maps/unpack'
import { unpack } from '#core/maps/unpack'
import { RECORD_NAME } from './deliver-folder'
import { readJson } from './files'
import { readImage } from './read-image'

/** Reads a delivery's files back into channels, as its record says they are to be read. */
export async function readDelivery(folder: string): Promise<CheckSubject> {
  const record = parseRecord(readJson(join(folder, RECORD_NAME)))
  const document = parseDocument(record.document)
  const channels = new Map(channelsOf(document).map((channel) => [channel.id, channel]))
  const decoded: DecodedFile[] = []
  const files: CheckedFile[] = []
  for (const file of record.files) {
    const path = join(folder, file.name)
    const image = await readImage(path)
    if (image.width !== record.width || image.height !== record.height)
      throw new GristError(
        'file-invalid',
        `Expected ${record.width} × ${record.height} but the file has ${image.width} × ${image.height}.`,
        { file: path },
      )
    files.push({ record: file, marked: file.format === 'png' ? hasSrgbMark(path) : null })
    decoded.push({ record: file, image })
  }
  const { width, height, heightMetres } = record
  const { emissionStrength } = document
  return { width, height, channels: unpack(decoded, channels, heightMetres), files, emissionStrength }
}

/** Whether a PNG carries an sRGB chunk before its pixels. */
function hasSrgbMark(path: string): boolean {
  const head = Buffer.alloc(64)
  const file = openSync(path, 'r')
  readSync(file, head, 0, 64, 0)
  closeSync(file)
  return head.includes('sRGB', 0, 'latin1')
}
