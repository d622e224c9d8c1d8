import PgBoss from 'pg-boss'
import { RUN_KINDS } from '../../contracts/run'
import { LIMITS } from '#core/limits'
import { databaseUrl } from '../database/database.server'
import { errorLog } from '../database/error-log'

let opened: Promise<PgBoss> | undefined

/** The queue in PostgreSQL. A job carries a run's id only; what is to be done stands in the runs table. */
export const queue = (): Promise<PgBoss> =>
  (opened ??= open().catch((error: unknown) => {
    // The next one who asks tries again.
    opened = undefined
    throw error
  }))

async function open(): Promise<PgBoss> {
  const boss = new PgBoss({ connectionString: databaseUrl(), schema: 'queue', max: 4 })
  boss.on('error', errorLog('queue'))
  try {
    await boss.start()
    for (const kind of RUN_KINDS)
      // Who takes over from a dead worker is decided by the run's beat; the queue's own expiry only has to come later.
      await boss.createQueue(kind, { name: kind, retryLimit: 0, expireInSeconds: LIMITS.job.seconds + 600 })
  } catch (error) {
    await boss.stop({ graceful: false, wait: false }).catch(() => {})
    throw error
  }
  return boss
}

export async function closeQueue(): Promise<void> {
  const boss = await opened?.catch(() => undefined)
  opened = undefined
  await boss?.stop({ graceful: false, wait: true })
}
