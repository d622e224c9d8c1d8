import { database } from './database.server'
import { enqueue } from './runs.server'

/** Edits come in bursts; a picture is made of what they come to. */
const SETTLE_SECONDS = 3

/** Puts a new picture on the queue, unless one of this document waits already: it will take the newest revision. */
export async function enqueuePicture(documentId: string, revision: number): Promise<void> {
  const { rows } = await database().raw<{ rows: unknown[] }>(
    `update runs set revision = greatest(revision, ?) where document_id = ? and kind = 'picture' and state = 'queued' returning id`,
    [revision, documentId],
  )
  if (rows.length === 0) await enqueue('picture', documentId, revision, {}, SETTLE_SECONDS)
}
