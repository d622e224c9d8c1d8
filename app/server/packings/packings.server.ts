import type { StoredPacking } from '../../contracts/stored-packing'
import type { Knex } from 'knex'
import { z } from 'zod'
import { parsePacking } from '#core/texture/packing'
import { packings as shipped } from '#core/texture/packings/packings.generated'
import { database } from '../database/database.server'
import { Problem } from '../http/problem.server'

/** What a browser sends: a packing, and the revision it goes by; null where it is new. */
export const saveSchema = z.strictObject({ packing: z.unknown(), base: z.int().min(1).max(2147483647).nullable() })

/** Packings a project may use: those shipped, then its own by title. */
export async function packingsOf(projectId: string): Promise<StoredPacking[]> {
  const own = (await database()('packings')
    .where({ project_id: projectId })
    .orderByRaw(`packing->>'title', name`)
    .select('packing', 'revision')) as { packing: unknown; revision: number }[]
  return [
    ...shipped.map((packing) => ({ packing, revision: null })),
    ...own.map(({ packing, revision }) => ({ packing: parsePacking(packing), revision })),
  ]
}

/**
 * Keeps a packing. Throws a Problem of 409 where another tab changed it, or a new one has a name that is taken.
 * Throws packing-invalid.
 */
export async function savePacking(
  projectId: string,
  { packing: json, base }: z.output<typeof saveSchema>,
): Promise<StoredPacking> {
  const packing = parsePacking(json)
  const { name } = packing
  if (shipped.some((one) => one.name === name))
    throw new Problem(409, `"${name}" is a packing that is shipped. Give yours another name.`)
  const table = database()('packings')
  const values = { packing: JSON.stringify(packing), changed_at: database().fn.now() }
  const [row] = (
    base === null
      ? await table
          .insert({ project_id: projectId, name, ...values })
          .onConflict(['project_id', 'name'])
          .ignore()
          .returning('revision')
      : await table
          .where({ project_id: projectId, name, revision: base })
          .update({ ...values, revision: base + 1 })
          .returning('revision')
  ) as { revision: number }[]
  if (row) return { packing, revision: row.revision }
  throw new Problem(
    409,
    base === null
      ? `This project has a packing "${name}" already. Give yours another name.`
      : `The packing "${packing.title}" was changed or deleted in another tab.`,
  )
}

/** Own packings of one project for another that has none. */
export async function copyPackings(transaction: Knex.Transaction, from: string, to: string): Promise<void> {
  await transaction.raw(
    'insert into packings (project_id, name, packing) select ?, name, packing from packings where project_id = ?',
    [to, from],
  )
}

export async function deletePacking(projectId: string, name: string): Promise<void> {
  await database()('packings').where({ project_id: projectId, name }).delete()
}
