import { z } from 'zod'
import type { ProjectValue } from '../../contracts/project-value'
import { followedNames, takeShared } from '#core/document/edits/shared-values'
import { LIMITS } from '#core/limits'
import { editOf } from '#core/document/patches'
import { database } from '../database/database.server'
import { openDocument } from '../documents/documents.server'
import { saveEdits } from '../documents/saves.server'
import { Problem } from '../http/problem.server'

/** The most values of a project. */
const MOST = 256

/** A name and a colour or number, as browsers send them. */
export const valueSchema = z.strictObject({
  name: z.string().trim().min(1, 'a name').max(LIMITS.name),
  value: z.union([z.number().min(-1e6).max(1e6), z.string().regex(/^#[0-9a-fA-F]{6}$/, 'a colour as "#rrggbb"')]),
})

/** Values of a project, by name. */
export async function valuesOf(projectId: string): Promise<ProjectValue[]> {
  const { rows } = await database().raw<{ rows: ProjectValue[] }>(
    `select v.name, v.value, (select count(*)::int from documents d where d.project_id = v.project_id
       and d.deleted_at is null and jsonb_exists(d.summary->'shared', v.name)) as followers
     from project_values v where v.project_id = ? order by lower(v.name)`,
    [projectId],
  )
  return rows
}

/**
 * Sets a value, new or known, and with it the dials of all materials of the project that follow it: an edit of each, which its
 * undo takes back there. Throws a Problem of 409 where it is of another kind than before.
 */
export async function setValue(
  projectId: string,
  { name, value }: z.output<typeof valueSchema>,
): Promise<ProjectValue[]> {
  const before = await valuesOf(projectId)
  const known = before.find((one) => one.name === name)
  if (known && typeof known.value !== typeof value)
    throw new Problem(409, `“${name}” is a ${typeof known.value === 'number' ? 'number' : 'colour'} already.`)
  if (!known && before.length >= MOST) throw new Problem(409, `A project has at most ${MOST} values.`)
  await database()('project_values')
    .insert({ project_id: projectId, name, value: JSON.stringify(value) })
    .onConflict(['project_id', 'name'])
    .merge(['value'])
  if (known) for (const id of await followersOf(projectId, name)) await follow(id, { name, value })
  return valuesOf(projectId)
}

/** Takes a value away; dials that followed it keep what they have. */
export async function deleteValue(projectId: string, name: string): Promise<ProjectValue[]> {
  await database()('project_values').where({ project_id: projectId, name }).delete()
  return valuesOf(projectId)
}

async function followersOf(projectId: string, name: string): Promise<string[]> {
  const { rows } = await database().raw<{ rows: { id: string }[] }>(
    `select id from documents where project_id = ? and deleted_at is null and jsonb_exists(summary->'shared', ?)`,
    [projectId, name],
  )
  return rows.map(({ id }) => id)
}

/** Tries where somebody saves at the same time. */
const TRIES = 5

async function follow(id: string, value: z.output<typeof valueSchema>): Promise<void> {
  for (let tries = 1; ; tries++) {
    const { document, head } = await openDocument(id)
    if (!followedNames(document).includes(value.name)) return
    const edit = editOf(document, `${value.name}, of the project`, (draft) => takeShared(draft, value))
    if (!edit) return
    try {
      await saveEdits(id, { base: head, edits: [edit] })
      return
    } catch (error) {
      if (!(error instanceof Problem && error.status === 409) || tries === TRIES) throw error
    }
  }
}

/** Values of one project for another that has none. */
export async function copyValues(
  transaction: { raw(sql: string, values: string[]): Promise<unknown> | PromiseLike<unknown> },
  from: string,
  to: string,
): Promise<void> {
  await transaction.raw(
    'insert into project_values (project_id, name, value) select ?, name, value from project_values where project_id = ?',
    [to, from],
  )
}
