import type { OpenDocument } from '../../contracts/document'
import type { Knex } from 'knex'
import { z } from 'zod'
import { canonicalJson } from '#core/hash'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { LIMITS } from '#core/limits'
import type { Edit, Patch } from '#core/document/patches'
import { editSchema, patched, stacksOf } from '#core/document/patches'
import { database, one } from '../database/database.server'
import { Problem } from '../http/problem.server'

/** A whole document is kept every so many revisions; between them patches lead from one to the next. */
const SNAPSHOT_EVERY = 50
/** Edits of each stack that a client gets at once. */
const STACK_DEPTH = 200

interface DocumentRow {
  id: string
  project_id: string
  name: string
  head: number
  current: MaterialDocument
}

interface RevisionRow {
  number: number
  kind: 'start' | 'edit' | 'undo' | 'redo'
  of: number | null
  label: string
  patches: Patch[]
  inverse: Patch[]
  edit_id: string
}

export async function createDocument(
  transaction: Knex.Transaction,
  projectId: string,
  document: MaterialDocument,
): Promise<string> {
  const current = JSON.stringify(document)
  const [row] = (await transaction('documents')
    .insert({ project_id: projectId, name: document.name, current })
    .returning('id')) as { id: string }[]
  await transaction('revisions').insert({
    document_id: row!.id,
    number: 0,
    kind: 'start',
    label: 'Start',
    patches: '[]',
    inverse: '[]',
    snapshot: current,
    edit_id: crypto.randomUUID(),
  })
  await noteAssets(transaction, row!.id, document)
  await touchProject(transaction, projectId)
  return row!.id
}

export async function openDocument(id: string): Promise<OpenDocument> {
  const row = await database()('documents').where({ id, deleted_at: null }).first<DocumentRow | undefined>()
  if (!row) throw new Problem(404, 'There is no such document. It may have been deleted.')
  const { undo, redo } = await stacksAt(database(), id)
  return {
    id,
    projectId: row.project_id,
    name: row.name,
    head: row.head,
    document: parseDocument(row.current, row.name),
    undo,
    redo,
  }
}

type Entry = { id: string; kind: string; of: string | null; number: number }

/** Every revision in order, with the id of what an undo or redo is about. */
async function historyOf(db: Knex, id: string): Promise<Entry[]> {
  const { rows } = await db.raw<{ rows: Entry[] }>(
    `select r.edit_id as id, r.kind, o.edit_id as of, r.number from revisions r
     left join revisions o on o.document_id = r.document_id and o.number = r.of
     where r.document_id = ? order by r.number`,
    [id],
  )
  return rows
}

async function stacksAt(db: Knex, id: string): Promise<{ undo: Edit[]; redo: Edit[] }> {
  const rows = await historyOf(db, id)
  const stacks = stacksOf(rows)
  const numbers = [...stacks.undo.slice(-STACK_DEPTH), ...stacks.redo.slice(-STACK_DEPTH)].map((entry) => entry.number)
  const found = (await db('revisions').where({ document_id: id }).whereIn('number', numbers)) as RevisionRow[]
  const byNumber = new Map(found.map((row) => [row.number, editFrom(row)]))
  const edits = (entries: readonly Entry[]) => entries.slice(-STACK_DEPTH).map((entry) => byNumber.get(entry.number)!)
  return { undo: edits(stacks.undo), redo: edits(stacks.redo) }
}

const editFrom = (row: RevisionRow): Edit => ({
  id: row.edit_id,
  kind: row.kind as Edit['kind'],
  label: row.label,
  patches: row.patches,
  inverse: row.inverse,
})

/** Edits that one answer holds at most. */
const PAGE = 500

/** Edits after revision `since`, with the id of what an undo or redo is about; `more` where there are later ones. */
export async function editsSince(id: string, since: number): Promise<{ head: number; edits: Edit[]; more: boolean }> {
  const row = await database()('documents').where({ id, deleted_at: null }).first<{ head: number } | undefined>('head')
  if (!row) throw new Problem(404, 'There is no such document. It may have been deleted.')
  const { rows } = await database().raw<{ rows: (RevisionRow & { of_id: string | null })[] }>(
    `select r.*, o.edit_id as of_id from revisions r
     left join revisions o on o.document_id = r.document_id and o.number = r.of
     where r.document_id = ? and r.number > ? order by r.number limit ?`,
    [id, since, PAGE],
  )
  return {
    head: rows.at(-1)?.number ?? row.head,
    more: rows.length === PAGE,
    edits: rows.map((revision) => ({ ...editFrom(revision), ...(revision.of_id ? { of: revision.of_id } : {}) })),
  }
}

export const saveSchema = z.strictObject({
  base: z.int().min(0).max(2147483647),
  edits: z.array(editSchema).min(1).max(LIMITS.save.edits),
})

/**
 * Appends edits to a document that still stands at revision `base`. An edit that is there already (its answer got lost)
 * is not appended again. Throws a Problem 409 where others saved in between; nothing is overwritten then.
 */
export async function saveEdits(id: string, { base, edits }: z.output<typeof saveSchema>): Promise<{ head: number }> {
  return database().transaction(async (transaction) => {
    const row = await one<DocumentRow>(
      transaction.raw('select * from documents where id = ? and deleted_at is null for update', [id]),
    )
    if (!row) throw new Problem(404, 'There is no such document. It may have been deleted.')
    const known = (await transaction('revisions')
      .where({ document_id: id })
      .whereIn(
        'edit_id',
        edits.map((edit) => edit.id),
      )
      .select('edit_id', 'number')) as { edit_id: string; number: number }[]
    const fresh = edits.filter((edit) => !known.some((revision) => revision.edit_id === edit.id))
    const stood = Math.max(base, ...known.map((revision) => revision.number))
    if (stood !== row.head)
      throw new Problem(409, `This document has moved on to revision ${row.head} while the edit was made on ${base}.`)
    if (fresh.length === 0) return { head: row.head }
    const steps = fresh.some((edit) => edit.kind !== 'edit')
    const history = steps ? await historyOf(transaction, id) : []
    let current = row.current
    let head = row.head
    for (const edit of fresh) {
      const of = aboutOf(history, edit)
      current = apply(current, edit)
      head++
      history.push({ id: edit.id, kind: edit.kind, of: edit.of ?? null, number: head })
      await transaction('revisions').insert({
        document_id: id,
        number: head,
        kind: edit.kind,
        of,
        label: edit.label,
        edit_id: edit.id,
        patches: JSON.stringify(edit.patches),
        inverse: JSON.stringify(edit.inverse),
        snapshot: head % SNAPSHOT_EVERY === 0 ? JSON.stringify(current) : null,
      })
    }
    await transaction('documents')
      .where({ id })
      .update({ head, current: JSON.stringify(current), name: current.name, changed_at: transaction.fn.now() })
    await touchProject(transaction, row.project_id)
    await noteAssets(transaction, id, current, row.current)
    return { head }
  })
}

/** The revision an undo or redo is about; it must be the one whose turn it is. */
function aboutOf(history: Entry[], edit: Edit): number | null {
  if (edit.kind === 'edit') return null
  const stacks = stacksOf(history)
  const turn = (edit.kind === 'undo' ? stacks.undo : stacks.redo).at(-1)
  if (!turn || turn.id !== edit.of)
    throw new Problem(409, `It is not this edit’s turn to be ${edit.kind === 'undo' ? 'undone' : 'redone'}.`)
  return turn.number
}

/** The document after an edit; it must be sound, and the inverse must lead back. */
function apply(current: MaterialDocument, edit: Edit): MaterialDocument {
  let next: unknown
  try {
    next = patched(current, edit.patches)
  } catch (error) {
    throw new Problem(422, `The edit does not fit the document: ${(error as Error).message}`)
  }
  const parsed = parseDocument(next)
  let back: string
  try {
    back = canonicalJson(patched(parsed, edit.inverse))
  } catch (error) {
    throw new Problem(422, `The edit’s inverse does not fit: ${(error as Error).message}`)
  }
  if (back !== canonicalJson(current))
    throw new Problem(422, 'The edit’s inverse does not lead back to where it started.')
  const json = JSON.stringify(parsed)
  if (json.includes('\\u0000')) throw new Problem(422, 'A text may not hold the character U+0000.')
  if (json.length > LIMITS.document.bytes)
    throw new Problem(413, `A document may take at most ${LIMITS.document.bytes >> 20} MB.`)
  return parsed
}

/** The document as it was at a revision. */
export async function documentAt(id: string, revision: number): Promise<MaterialDocument> {
  const start = await database()('revisions')
    .where({ document_id: id })
    .whereNotNull('snapshot')
    .where('number', '<=', revision)
    .orderBy('number', 'desc')
    .first<{ number: number; snapshot: MaterialDocument } | undefined>('number', 'snapshot')
  if (!start) throw new Problem(404, 'There is no such revision.')
  const rows = (await database()('revisions')
    .where({ document_id: id })
    .where('number', '>', start.number)
    .where('number', '<=', revision)
    .orderBy('number')
    .select('number', 'patches')) as { number: number; patches: Patch[] }[]
  if (start.number + rows.length !== revision) throw new Problem(404, 'There is no such revision.')
  return parseDocument(rows.reduce((document, { patches }) => patched(document, patches), start.snapshot))
}

/** Notes that something in a project changed. */
const touchProject = (transaction: Knex.Transaction, id: string) =>
  transaction('projects').where({ id }).update({ changed_at: transaction.fn.now() })

/** Images of the library that a document names, each once. */
const imagesNamedIn = (document: MaterialDocument): string[] => [
  ...new Set([...JSON.stringify(document).matchAll(/"sha256:([0-9a-f]{64})"/g)].map(([, sha256]) => sha256!)),
]

/**
 * Notes which images a document has ever named. Throws a Problem 422 where one that it did not name `before` is not in the
 * library.
 */
async function noteAssets(
  transaction: Knex.Transaction,
  id: string,
  document: MaterialDocument,
  before: MaterialDocument | null = null,
): Promise<void> {
  const known = new Set(before ? imagesNamedIn(before) : [])
  const fresh = imagesNamedIn(document).filter((sha256) => !known.has(sha256))
  if (fresh.length === 0) return
  const found = (await transaction('assets').whereIn('sha256', fresh).select('sha256')) as { sha256: string }[]
  const missing = fresh.find((sha256) => !found.some((one) => one.sha256 === sha256))
  if (missing) throw new Problem(422, `The image sha256:${missing} is not in the library. Import it first.`)
  await transaction('asset_uses')
    .insert(fresh.map((sha256) => ({ sha256, document_id: id })))
    .onConflict(['sha256', 'document_id'])
    .ignore()
}
