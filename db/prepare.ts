import { readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import knex from 'knex'
import { canonicalJson, hashText } from '#core/content-key'
import { parseDocument } from '#core/graph/document'
import { migrationSource } from './migrations'

/** Brings the database up to date and puts the demo's documents in, changed ones anew. */
async function prepare(url: string): Promise<void> {
  const database = knex({ client: 'pg', connection: url })
  try {
    await database.migrate.latest({ migrationSource })
    const folder = join(import.meta.dirname, '../demo')
    for (const file of readdirSync(folder).filter((one) => one.endsWith('.json'))) {
      const document = parseDocument(JSON.parse(readFileSync(join(folder, file), 'utf8')), file)
      const row = { name: document.name, document: JSON.stringify(document), sha256: hashText(canonicalJson(document)) }
      await database('materials').insert(row).onConflict('name').merge()
    }
  } finally {
    await database.destroy()
  }
}

const url = process.env.DATABASE_URL
if (!url) throw new Error('DATABASE_URL is not set; bin/start sets it.')
await prepare(url)
