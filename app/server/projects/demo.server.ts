import type { MaterialDocument } from '#core/document/document'
import { database } from '../database/database.server'
import { createDocument } from '../documents/documents.server'

/** The demo project, once: a user who deletes it is not given it again. Null where it was loaded before. */
export async function loadDemo(
  origin: string,
  name: string,
  documents: readonly MaterialDocument[],
): Promise<{ project: string; documents: string[] } | null> {
  return database().transaction(async (transaction) => {
    const [row] = (await transaction('projects')
      .insert({ name, origin })
      .onConflict('origin')
      .ignore()
      .returning('id')) as { id: string }[]
    if (!row) return null
    const ids: string[] = []
    for (const document of documents) ids.push(await createDocument(transaction, row.id, document))
    return { project: row.id, documents: ids }
  })
}
