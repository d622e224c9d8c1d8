import type { Knex } from 'knex'
import { z } from 'zod'
import { applyChecked } from '#core/document/checked-edit'
import type { MaterialDocument } from '#core/document/document'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import type { Edit } from '#core/document/patches'
import { editSchema, onlyArranges, patched } from '#core/document/patches'
import { sameJson } from '#core/same-json'
import { database, one } from '../database/database.server'
import { Problem } from '../http/problem.server'
import { imagesNamedIn, noteImages, summaryOf } from './documents.server'
import type { Line, LineEdit } from './line.server'
import { placeOf } from './line.server'
import type { Newest } from './revisions.server'
import { SNAPSHOT_EVERY, keepNewest, knownNewest, newestOf } from './revisions.server'

export const saveSchema = z.strictObject({
  base: z.int().min(0).max(2147483647),
  edits: z.array(editSchema).min(1).max(LIMITS.save.edits),
})

/**
 * Appends edits to a document that still stands at revision `base`. An edit that is there already (its answer got lost)
 * is not appended again. Throws a Problem 409 where others saved in between; nothing is overwritten then.
 */
export async function saveEdits(id: string, { base, edits }: z.output<typeof saveSchema>): Promise<{ head: number }> {
  const [edit] = edits as [Edit]
  const appended = edits.length === 1 ? await appendOne(id, base, edit) : null
  if (appended) return appended
  const saved = await database().transaction(async (transaction): Promise<Newest | { head: number }> => {
    const row = await one<{ head: number } & Line>(
      transaction.raw(
        `select head, undo_top as "undoTop", tip from documents where id = ? and deleted_at is null for update`,
        [id],
      ),
    )
    if (!row) throw new Problem(404, 'There is no such document. It may have been deleted.')
    // Only edits made on an older revision can be there already.
    const known = base === row.head ? [] : await knownEdits(transaction, id, edits)
    const fresh = edits.filter((edit) => !known.some((revision) => revision.edit_id === edit.id))
    const stood = Math.max(base, ...known.map((revision) => revision.number))
    if (stood !== row.head)
      throw new Problem(409, `This document has moved on to revision ${row.head} while the edit was made on ${base}.`)
    if (fresh.length === 0) return { head: row.head }
    let now = await newestOf(transaction, id, row.head)
    let line: Line = row
    const rows: (LineEdit & Record<string, unknown>)[] = []
    for (const edit of fresh) {
      const head = now.head + 1
      const place = await placeOf(transaction, id, line, edit, head, rows)
      now = { head, ...apply(now, edit) }
      line = place.line
      rows.push({ document_id: id, of: place.of, below: place.below, edit_id: edit.id, ...rowOf(edit, now) })
    }
    await transaction('documents')
      .with('saved', transaction('revisions').insert(rows))
      .where({ id })
      .update({
        undo_top: line.undoTop,
        tip: line.tip,
        changed_at: transaction.fn.now(),
        ...headOf(now),
      })
    // Only what patches bring can name images that were not named before.
    await noteImages(
      transaction,
      id,
      fresh.map(({ patches }) => patches),
    )
    return now
  })
  if ('document' in saved) keepNewest(id, saved)
  return { head: saved.head }
}

/** An edit as it is kept. */
const rowOf = ({ kind, label, patches, inverse }: Edit, { head, document }: Newest) => ({
  number: head,
  kind,
  label,
  patches: JSON.stringify(patches),
  inverse: JSON.stringify(inverse),
  snapshot: head % SNAPSHOT_EVERY === 0 ? JSON.stringify(document) : null,
})

/** What lists show of a document. */
const headOf = ({ head, document }: Newest) => ({
  head,
  name: document.name,
  summary: JSON.stringify(summaryOf(document)),
})

/**
 * The usual save, one edit on the revision that this process knows as the newest, in one statement: a transaction of
 * several takes half as long again. Null where anything is out of the ordinary; then nothing was done.
 */
async function appendOne(id: string, base: number, edit: Edit): Promise<{ head: number } | null> {
  const known = knownNewest(id)
  if (known?.head !== base || edit.kind !== 'edit' || imagesNamedIn(edit.patches).length > 0) return null
  const now: Newest = { head: base + 1, ...apply(known, edit) }
  const row = await one<{ number: number }>(
    database().raw(
      `with stood as (select undo_top from documents where id = :id and head = :base and deleted_at is null for update),
       moved as (
         update documents set head = :head, undo_top = :head, tip = :head, name = :name, summary = :summary,
           changed_at = now()
         from stood where id = :id
       )
       insert into revisions (document_id, number, kind, of, below, label, edit_id, patches, inverse, snapshot)
       select :id, :number, :kind, null, undo_top, :label, :editId, :patches, :inverse, :snapshot from stood
       returning number`,
      { id, base, editId: edit.id, ...rowOf(edit, now), ...headOf(now) },
    ),
  )
  if (!row) return null
  keepNewest(id, now)
  return { head: now.head }
}

const knownEdits = (db: Knex, id: string, edits: readonly Edit[]): Promise<{ edit_id: string; number: number }[]> =>
  db('revisions')
    .where({ document_id: id })
    .whereIn(
      'edit_id',
      edits.map((edit) => edit.id),
    )
    .select('edit_id', 'number')

/** An escaped U+0000 in a JSON text, not one whose backslash is escaped itself. */
const NUL = /(?<!\\)(?:\\\\)*\\u0000/

/** Defaults that a part gets when it is read take at most so many times the room of the patch that brings it. */
const DEFAULTS = 16

/** The document after an edit; it must be sound, and the inverse must lead back. Only what the edit touches is looked at. */
function apply({ document, bytes }: Newest, edit: Edit): { document: MaterialDocument; bytes: number } {
  if (edit.kind === 'arrange' && !onlyArranges(edit.patches))
    throw new Problem(422, 'An arrangement may only say where nodes stand.')
  const json = JSON.stringify([edit.patches, edit.inverse])
  if (NUL.test(json)) throw new Problem(422, 'A text may not hold the character U+0000.')
  const next = inPlace('edit', () => applyChecked(document, edit.patches))
  const back = inPlace('edit’s inverse', () => patched(next, edit.inverse))
  if (!sameJson(back, document)) throw new Problem(422, 'The edit’s inverse does not lead back to where it started.')
  // Counted up, and only where that could be too much the whole is measured.
  const maxBytes = bytes + DEFAULTS * json.length
  if (maxBytes <= LIMITS.document.bytes) return { document: next, bytes: maxBytes }
  const exact = JSON.stringify(next).length
  if (exact > LIMITS.document.bytes)
    throw new Problem(413, `A document may take at most ${LIMITS.document.bytes >> 20} MB.`)
  return { document: next, bytes: exact }
}

/** What is no fault of the document's own form is a path that leads nowhere. */
function inPlace<T>(what: string, work: () => T): T {
  try {
    return work()
  } catch (error) {
    if (error instanceof GristError) throw error
    throw new Problem(422, `The ${what} does not fit the document: ${(error as Error).message}`)
  }
}
