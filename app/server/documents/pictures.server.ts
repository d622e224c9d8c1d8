import { database } from '../database/database.server'
import { enqueue } from '../runs/runs.server'

/** Edits come in bursts; a picture is made of what they come to. */
const SETTLE_SECONDS = 3

/** A picture for a copy: that of the original, where it shows what the copy begins with; else one is made. */
export async function copyPicture(from: string, to: string): Promise<void> {
  const { rowCount } = await database().raw<{ rowCount: number }>(
    `insert into pictures (document_id, revision, png)
     select ?, 0, p.png from pictures p join documents d on d.id = p.document_id and d.head = p.revision where d.id = ?
     on conflict do nothing`,
    [to, from],
  )
  if (rowCount === 0) await enqueue('picture', to, 0, {})
}

/** Puts a new picture on the queue, unless one of this document waits already: it will take the newest revision. */
export async function enqueuePicture(documentId: string, revision: number): Promise<void> {
  const { rows } = await database().raw<{ rows: unknown[] }>(
    `update runs set revision = greatest(revision, ?) where document_id = ? and kind = 'picture' and state = 'queued' returning id`,
    [revision, documentId],
  )
  if (rows.length === 0) await enqueue('picture', documentId, revision, {}, SETTLE_SECONDS)
}
