import type { Knex } from 'knex'
import type { Edit } from '#core/document/patches'
import { one } from '../database/database.server'
import { Problem } from '../http/problem.server'
import type { RevisionRow } from './revisions.server'
import { editFrom } from './revisions.server'

/**
 * Undo as a line of edits. Every edit names the one below it; `undoTop` is the newest that can be undone (or the start), `tip` the
 * end of the line. What lies between them can be redone. So nothing of this reads a history.
 */
export interface Line {
  readonly undoTop: number
  readonly tip: number
}

/** Edits of each stack that a client gets at once. */
const STACK_DEPTH = 200

const COLUMNS = 'r.number, r.kind, r.label, r.patches, r.inverse, r.edit_id'

/** As aboveOf, for a whole line. */
const ABOVE = `lateral (select number from revisions where document_id = :id and below = line.number order by number desc limit 1) x`

/** Edits that can be undone and redone, newest last. */
export async function stacksAt(db: Knex, id: string, line: Line): Promise<{ undo: Edit[]; redo: Edit[] }> {
  const given = { id, ...line, depth: STACK_DEPTH }
  const undo = await db.raw<{ rows: RevisionRow[] }>(
    `with recursive line as (
       select number, below, 1 as depth from revisions where document_id = :id and number = :undoTop and kind = 'edit'
       union all
       select r.number, r.below, depth + 1 from line
       join revisions r on r.document_id = :id and r.number = line.below and r.kind = 'edit' where depth < :depth
     )
     select ${COLUMNS} from line join revisions r on r.document_id = :id and r.number = line.number order by depth desc`,
    given,
  )
  const redo = await db.raw<{ rows: RevisionRow[] }>(
    `with recursive line as (
       select :undoTop::int as number, 0 as depth
       union all
       select x.number, depth + 1 from line, ${ABOVE} where depth < :depth and line.number <> :tip
     )
     select ${COLUMNS} from line join revisions r on r.document_id = :id and r.number = line.number
     where depth > 0 order by depth desc`,
    given,
  )
  return { undo: undo.rows.map(editFrom), redo: redo.rows.map(editFrom) }
}

/** Where an edit fits onto the line. */
export interface Place {
  /** The revision that an undo or redo is about. */
  readonly of: number | null
  /** What a new edit lies on. */
  readonly below: number | null
  /** The line after it. */
  readonly line: Line
}

/** An edit of the line, as far as undo needs it. */
export interface LineEdit {
  readonly number: number
  readonly kind: string
  readonly edit_id: string
  readonly below: number | null
}

/**
 * Works out where an edit comes as revision `number`, after those of the same save. Throws a Problem 409 where it is not its
 * turn to be undone or redone.
 */
export async function placeOf(
  db: Knex,
  id: string,
  line: Line,
  edit: Edit,
  number: number,
  saved: readonly LineEdit[],
): Promise<Place> {
  if (edit.kind === 'arrange') return { of: null, below: null, line }
  const { undoTop, tip } = line
  if (edit.kind === 'edit') return { of: null, below: undoTop, line: { undoTop: number, tip: number } }
  const turn = edit.kind === 'undo' ? await topOf(db, id, undoTop, saved) : await aboveOf(db, id, line, saved)
  if (turn?.edit_id !== edit.of)
    throw new Problem(409, `It is not this edit’s turn to be ${edit.kind === 'undo' ? 'undone' : 'redone'}.`)
  return { of: turn!.number, below: null, line: { undoTop: edit.kind === 'undo' ? turn!.below! : turn!.number, tip } }
}

const topOf = async (db: Knex, id: string, top: number, saved: readonly LineEdit[]): Promise<LineEdit | null> =>
  saved.find(({ number }) => number === top) ??
  one<LineEdit>(
    db.raw(
      `select number, kind, edit_id, below from revisions where document_id = ? and number = ? and kind = 'edit'`,
      [id, top],
    ),
  )

/** The next edit up the line is the last that was made on top of one. */
const aboveOf = async (
  db: Knex,
  id: string,
  { undoTop, tip }: Line,
  saved: readonly LineEdit[],
): Promise<LineEdit | null> =>
  undoTop === tip
    ? null
    : (saved.findLast(({ below }) => below === undoTop) ??
      one<LineEdit>(
        db.raw(
          `select number, kind, edit_id, below from revisions where document_id = ? and below = ? order by number desc limit 1`,
          [id, undoTop],
        ),
      ))
