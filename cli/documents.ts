import { createWriteStream, existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { GristError } from '#core/errors'
import type { MaterialDocument } from '#core/document/document'
import { LIMITS } from '#core/limits'
import { IMAGES_FOLDER } from '#runtime/node/delivery-folder'
import { folderOf, readJson } from '#runtime/node/files'

/**
 * A document with the folder its images lie in; of a ZIP that was taken along its only material, unpacked for as long as the command
 * runs. What is wrong with its path is told before anything is loaded for it.
 */
export async function openDocument(path: string | undefined): Promise<{ document: MaterialDocument; folder: string }> {
  if (path === undefined) throw new GristError('usage', 'Which document?')
  if (/\.zip$/i.test(path)) return openZip(path)
  const json = readJson(path, LIMITS.document.bytes)
  const { parseDocument } = await import('#core/document/document')
  try {
    return { document: parseDocument(json), folder: folderOf(path) }
  } catch (error) {
    throw error instanceof GristError ? error.at({ file: path }) : error
  }
}

async function openZip(path: string): Promise<{ document: MaterialDocument; folder: string }> {
  const { unpackMaterials } = await import('#runtime/node/material-file')
  const packed = await guardedOpen(path, unpackMaterials)
  try {
    const [document, ...more] = packed.documents
    if (more.length > 0)
      throw new GristError(
        'usage',
        `This file holds ${packed.documents.length} materials (${packed.documents.map(({ name }) => name).join(', ')}). Unpack it and name one.`,
        { file: path },
      )
    const folder = mkdtempSync(join(tmpdir(), 'grist-'))
    process.once('exit', () => rmSync(folder, { recursive: true, force: true }))
    mkdirSync(join(folder, IMAGES_FOLDER))
    for (const { name, read } of packed.images)
      await pipeline(await read(), createWriteStream(join(folder, IMAGES_FOLDER, name)))
    return { document: document!, folder }
  } finally {
    packed.close()
  }
}

async function guardedOpen<T>(path: string, work: (path: string) => Promise<T>): Promise<T> {
  if (!existsSync(path)) throw new GristError('file-invalid', 'There is no such file.', { file: path })
  return work(path)
}
