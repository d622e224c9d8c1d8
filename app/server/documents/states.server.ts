import type { DocumentState } from '../../contracts/document-state'
import { z } from 'zod'
import { LIMITS } from '#core/limits'
import { database } from '../database/database.server'
import { Problem } from '../http/problem.server'

/** Unnamed revisions that are listed; older ones stay, and can be reached once they are named. */
const RECENT = 40

/** Named states, and the newest revisions besides, without those that only moved nodes about; newest first. */
export async function listStates(documentId: string): Promise<DocumentState[]> {
  const { rows } = await database().raw<{ rows: DocumentState[] }>(
    `select r.number as revision, s.name, r.kind, r.label, r.created_at as at
     from revisions r
     join documents d on d.id = r.document_id and d.deleted_at is null
     left join states s on s.document_id = r.document_id and s.revision = r.number
     where r.document_id = ? and (s.name is not null or (r.number > d.head - ? and r.kind <> 'arrange'))
     order by r.number desc`,
    [documentId, RECENT],
  )
  if (rows.length === 0) throw new Problem(404, 'There is no such document. It may have been deleted.')
  return rows
}

export const stateSchema = z.strictObject({
  revision: z.int().min(0).max(2147483647),
  /** Null takes the name away. */
  name: z.string().trim().min(1, 'a name').max(LIMITS.name).nullable(),
})

/** Names a revision, renames it, or takes its name away. */
export async function nameState(documentId: string, { revision, name }: z.output<typeof stateSchema>): Promise<void> {
  const { rowCount } = await database().raw<{ rowCount: number }>(
    `select 1 from revisions r join documents d on d.id = r.document_id and d.deleted_at is null
     where r.document_id = ? and r.number = ?`,
    [documentId, revision],
  )
  if (rowCount === 0) throw new Problem(404, 'There is no such revision.')
  const state = { document_id: documentId, revision }
  if (name === null) await database()('states').where(state).delete()
  else
    await database()('states')
      .insert({ ...state, name })
      .onConflict(['document_id', 'revision'])
      .merge(['name'])
}
