import { GristError } from '#core/errors'
import type { MaterialDocument } from '#core/document/document'
import { LIMITS } from '#core/limits'
import { folderOf, readJson } from '#runtime/node/files'

/** A document with the folder its images lie in. What is wrong with its path is told before anything is loaded for it. */
export async function openDocument(path: string | undefined): Promise<{ document: MaterialDocument; folder: string }> {
  if (path === undefined) throw new GristError('usage', 'Which document?')
  const json = readJson(path, LIMITS.document.bytes)
  const { parseDocument } = await import('#core/document/document')
  try {
    return { document: parseDocument(json), folder: folderOf(path) }
  } catch (error) {
    throw error instanceof GristError ? error.at({ file: path }) : error
  }
}
