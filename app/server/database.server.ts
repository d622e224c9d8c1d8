import knex from 'knex'
import type { MaterialDocument } from '#core/graph/document'
import { parseDocument } from '#core/graph/document'

const database = knex({ client: 'pg', connection: process.env.DATABASE_URL, pool: { min: 0, max: 8 } })

/** A stored material by name; null where there is none. Throws document-invalid where the row is damaged. */
export async function findMaterial(name: string): Promise<MaterialDocument | null> {
  const row = await database('materials').where({ name }).first<{ document: unknown } | undefined>('document')
  return row ? parseDocument(row.document, name) : null
}
