import knex from 'knex'
import type { Knex } from 'knex'
import pg from 'pg'

/** Moments arrive as ISO 8601 texts with all their microseconds, so that they can be compared and sent on as they are. */
const TIMESTAMPTZ = 1184
pg.types.setTypeParser(TIMESTAMPTZ, (text) => text.replace(' ', 'T').replace(/([+-]\d\d)$/, '$1:00'))

/** The one pool of connections of a process; opened at first use. */
let opened: Knex | undefined
export const database = (): Knex =>
  (opened ??= knex({ client: 'pg', connection: databaseUrl(), pool: { min: 0, max: 16 } }))

export function databaseUrl(): string {
  const url = process.env.DATABASE_URL
  if (!url) throw new Error('DATABASE_URL is not set; bin/start sets it.')
  return url
}

export async function closeDatabase(): Promise<void> {
  await opened?.destroy()
  opened = undefined
}

/** First row or null. */
export async function one<T>(query: PromiseLike<{ rows: T[] }>): Promise<T | null> {
  return (await query).rows[0] ?? null
}
