import { execFileSync } from 'node:child_process'
import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { migrationsUpTo } from '../../../db/migrations'
import { closeDatabase, database } from '../database/database.server'
import { closeQueue, queue } from '../runs/queue.server'

/** A PostgreSQL cluster for the tests of one file: a real one, started and removed with them; as of a migration, or of today. */
export function ownDatabase(last?: string): void {
  let folder: string
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'cluster-'))
    chmodSync(folder, 0o711)
    process.env.DATABASE_URL = execFileSync('bin/lib/cluster', ['start', join(folder, 'postgres')], {
      encoding: 'utf8',
    }).trim()
    await database().migrate.latest({ migrationSource: migrationsUpTo(last) })
    await queue()
  }, 60_000)
  afterAll(async () => {
    await closeQueue()
    await closeDatabase()
    execFileSync('bin/lib/cluster', ['stop', join(folder, 'postgres')])
    rmSync(folder, { recursive: true, force: true })
  }, 60_000)
}
