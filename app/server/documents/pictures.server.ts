import { database, one } from '../database/database.server'
import { errorLog } from '../database/error-log'
import { Problem } from '../http/problem.server'
import { enqueue } from '../runs/runs.server'

/** Edits come in bursts: a picture is made once there was none for so long, and at the latest this long after the first. */
const REST_SECONDS = 3
const MAX_SECONDS = 30

const report = errorLog('pictures')

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

/** How long a picture waits after an edit, in milliseconds; `since` is when the first edit was made that it lacks. */
export const waitForRest = (now: number, since: number): number =>
  Math.max(0, Math.min(REST_SECONDS * 1000, since + MAX_SECONDS * 1000 - now))

/** Documents whose pictures wait, and since when. */
const waiting = new Map<string, { since: number; timer: NodeJS.Timeout }>()

/** Sees to a picture of a document when its edits rest, of the newest revision there is by then. */
export function pictureSoon(documentId: string, revision: number): void {
  const before = waiting.get(documentId)
  clearTimeout(before?.timer)
  const now = Date.now()
  const since = before?.since ?? now
  const timer = setTimeout(
    () => {
      waiting.delete(documentId)
      enqueuePicture(documentId, revision).catch(report)
    },
    waitForRest(now, since),
  )
  timer.unref()
  waiting.set(documentId, { since, timer })
}

/**
 * Asks for pictures of a project's materials that are behind their documents and that nobody has asked for: the server may have
 * ended before it came to it. One that was tried and failed is not asked for again.
 */
export async function askForMissingPictures(projectId: string): Promise<void> {
  const { rows } = await database().raw<{ rows: { id: string; head: number }[] }>(
    `select d.id, d.head from documents d left join pictures s on s.document_id = d.id
     where d.project_id = ? and d.deleted_at is null and d.listed and coalesce(s.revision, -1) < d.head
       and not exists (select 1 from runs r where r.document_id = d.id and r.kind = 'picture' and r.revision >= d.head)`,
    [projectId],
  )
  for (const { id, head } of rows) if (!waiting.has(id)) await enqueuePicture(id, head)
}

/** Puts a new picture on the queue, unless one of this document waits already: it will take the newest revision. */
async function enqueuePicture(documentId: string, revision: number): Promise<void> {
  const { rows } = await database().raw<{ rows: unknown[] }>(
    `update runs set revision = greatest(revision, ?) where document_id = ? and kind = 'picture' and state = 'queued' returning id`,
    [revision, documentId],
  )
  if (rows.length === 0) await enqueue('picture', documentId, revision, {})
}

export async function pictureOf(documentId: string): Promise<Buffer> {
  const row = await one<{ png: Buffer }>(database().raw('select png from pictures where document_id = ?', [documentId]))
  if (!row) throw new Problem(404, 'There is no picture yet.')
  return row.png
}
