import type { Knex } from 'knex'
import { LRUCache } from 'lru-cache'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import type { Edit, Patch } from '#core/document/patches'
import { patched } from '#core/document/patches'
import { database } from '../database/database.server'
import { Problem } from '../http/problem.server'

/** A whole document is kept every so many revisions; between them patches lead from one to the next. */
export const SNAPSHOT_EVERY = 50

export interface RevisionRow {
  number: number
  kind: 'start' | Edit['kind']
  label: string
  patches: Patch[]
  inverse: Patch[]
  edit_id: string
}

export const editFrom = (row: RevisionRow): Edit => ({
  id: row.edit_id,
  kind: row.kind as Edit['kind'],
  label: row.label,
  patches: row.patches,
  inverse: row.inverse,
})

/** A document as it stands at its newest revision. */
export interface Newest {
  readonly head: number
  readonly document: MaterialDocument
  /** At least the length of its JSON; see saves. */
  readonly bytes: number
}

/** Newest revisions of documents that are being worked on, by id. What they say is true as long as their head is the document's. */
const newest = new LRUCache<string, Newest>({
  maxSize: 64 * 2 ** 20,
  sizeCalculation: ({ bytes }) => Math.max(1, bytes),
})

/** The document at its newest revision, which is `head`. */
export async function newestOf(db: Knex, id: string, head: number): Promise<Newest> {
  const known = newest.get(id)
  if (known?.head === head) return known
  const document = await readRevision(db, id, head)
  const read = { head, document, bytes: JSON.stringify(document).length }
  newest.set(id, read)
  return read
}

/** The newest revision as far as this process knows; another one may have saved since. */
export const knownNewest = (id: string): Newest | undefined => newest.get(id)

/** To be called once a save is committed. */
export const keepNewest = (id: string, saved: Newest): void => void newest.set(id, saved)

/** The document as it was at a revision. Throws a Problem 404. */
export const documentAt = (id: string, revision: number): Promise<MaterialDocument> =>
  readRevision(database(), id, revision)

async function readRevision(db: Knex, id: string, revision: number): Promise<MaterialDocument> {
  const start = await db('revisions')
    .where({ document_id: id })
    .whereNotNull('snapshot')
    .where('number', '<=', revision)
    .orderBy('number', 'desc')
    .first<{ number: number; snapshot: MaterialDocument } | undefined>('number', 'snapshot')
  if (!start) throw new Problem(404, 'There is no such revision.')
  const rows = (await db('revisions')
    .where({ document_id: id })
    .where('number', '>', start.number)
    .where('number', '<=', revision)
    .orderBy('number')
    .select('number', 'patches')) as { number: number; patches: Patch[] }[]
  if (start.number + rows.length !== revision) throw new Problem(404, 'There is no such revision.')
  return parseDocument(rows.reduce((document, { patches }) => withPatches(document, patches), start.snapshot))
}

/** What was stored may lack members that programs had no word for then; later edits go into what those are by default. */
function withPatches(document: MaterialDocument, patches: readonly Patch[]): MaterialDocument {
  try {
    return patched(document, patches)
  } catch {
    return patched(parseDocument(document), patches)
  }
}
