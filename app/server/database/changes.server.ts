import pRetry, { AbortError } from 'p-retry'
import pg from 'pg'
import { databaseUrl } from './database.server'
import { errorLog } from './error-log'

/** What is listened for. */
export interface ChangeListener {
  /** A document moved on to a revision. */
  onDocument?(id: string, head: number): void
  /** Some run changed. */
  onRuns?(): void
  /** A run is to be cancelled that is at work. */
  onCancel?(id: string): void
  /** Listening begins, or begins again: what happened before was not heard. */
  onListening?(): void
}

const report = errorLog('listen')

/**
 * Listens to what the database tells of (migrations 0007 and 0016) on a connection of its own, and connects again where that breaks.
 * Returns a function that ends it. Source: PostgreSQL manual, LISTEN.
 */
export function listenToChanges(listener: ChangeListener): () => void {
  const ended = new AbortController()
  let client: pg.Client | undefined
  const channels = [
    ...(listener.onDocument ? ['documents'] : []),
    ...(listener.onRuns ? ['runs'] : []),
    ...(listener.onCancel ? ['cancels'] : []),
  ]

  async function connect(): Promise<void> {
    if (ended.signal.aborted) throw new AbortError('ended')
    const own = new pg.Client({ connectionString: databaseUrl(), connectionTimeoutMillis: 5000, keepAlive: true })
    own.on('error', report)
    own.on('notification', ({ channel, payload = '' }) => {
      if (channel === 'runs') return listener.onRuns?.()
      if (channel === 'cancels') return listener.onCancel?.(payload)
      const [id, head] = payload.split(' ')
      listener.onDocument?.(id!, Number(head))
    })
    own.on('end', () => {
      if (client === own) void keepConnected()
    })
    try {
      await own.connect()
      await own.query(channels.map((channel) => `listen ${channel}`).join('; '))
    } catch (error) {
      await own.end().catch(() => {})
      throw error
    }
    if (ended.signal.aborted) return void own.end().catch(() => {})
    client = own
    listener.onListening?.()
  }

  const keepConnected = (): Promise<void> =>
    pRetry(connect, {
      retries: Infinity,
      minTimeout: 200,
      maxTimeout: 3000,
      onFailedAttempt: ({ error }) => report(error),
      signal: ended.signal,
      unref: true,
    }).catch(() => {})

  void keepConnected()
  return () => {
    ended.abort()
    void client?.end().catch(() => {})
    client = undefined
  }
}
