import knex from 'knex'
import type { Knex } from 'knex'
import pg from 'pg'
import { errorLog } from './error-log'

/** Moments arrive as ISO 8601 texts with all their microseconds, so that they can be compared and sent on as they are. */
const TIMESTAMPTZ = 1184
pg.types.setTypeParser(TIMESTAMPTZ, (text) => text.replace(' ', 'T').replace(/([+-]\d\d)$/, '$1:00'))

/** How long a query may wait for a connection; where the database is away it is told after that. */
const ACQUIRE = 5000

const report = errorLog('database')

/** The one pool of connections of a process; opened at first use. */
let opened: Knex | undefined
export const database = (): Knex =>
  (opened ??= knex({
    client: 'pg',
    // Knex reads no socket from an address, the driver does.
    connection: { connectionString: databaseUrl() },
    pool: { min: 0, max: 16 },
    acquireConnectionTimeout: ACQUIRE,
    // Its warnings tell what the caller is told anyway, with a stack each time.
    log: { warn: report, error: report, deprecate: report, debug: () => {} },
  }))

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

/** Whether an error says that the database cannot be reached now. Codes: PostgreSQL, appendix A, classes 08 and 57P. */
export function isDatabaseAway(error: unknown): boolean {
  const { code, message, name, syscall } = error as Record<'code' | 'message' | 'name' | 'syscall', unknown>
  return (
    (typeof code === 'string' &&
      (/^(08...|57P0[123])$/.test(code) ||
        ['ECONNREFUSED', 'ECONNRESET', 'EPIPE'].includes(code) ||
        // A missing socket; other files that are missing are another matter.
        (code === 'ENOENT' && syscall === 'connect'))) ||
    name === 'KnexTimeoutError' ||
    (typeof message === 'string' &&
      /Connection terminated|timeout exceeded when trying to connect|Client (has encountered a connection error|was closed)/.test(
        message,
      ))
  )
}

/** Resolves once the database answers; says every ten seconds that it is waited for. */
export async function waitForDatabase(say: (text: string) => void): Promise<void> {
  for (let loggedAt = -Infinity; ;) {
    const client = new pg.Client({ connectionString: databaseUrl(), connectionTimeoutMillis: ACQUIRE })
    // A server that ends while it is asked tells so by an event too.
    client.on('error', () => {})
    try {
      await client.connect()
      await client.query('select 1')
      return
    } catch (error) {
      if (performance.now() - loggedAt > 10_000 && loggedAt > -Infinity)
        say(`Waiting for the database: ${(error as Error).message || (error as { code?: string }).code}`)
      if (loggedAt === -Infinity || performance.now() - loggedAt > 10_000) loggedAt = performance.now()
    } finally {
      await client.end().catch(() => {})
    }
    await new Promise((resolve) => setTimeout(resolve, 300))
  }
}
