import type { FindingWords } from '#core/checks/check'
import { GristError } from '#core/errors'
import type { TaskFailure } from '../task-outcome'
import { raise } from '../task-outcome'
import { openPool } from './pool'
import { readDeliveredFiles } from './read-delivery'

let pool: ReturnType<typeof openPool> | undefined

/**
 * Checks a delivered folder on a thread of its own: a rule takes most of a minute at 4096². The thread is ended when `signal` aborts.
 * Throws as readDelivery; cancelled.
 */
export async function checkDelivery(folder: string, signal: AbortSignal): Promise<readonly FindingWords[]> {
  pool ??= openPool('check-worker', 1, { idleTimeout: 5000 })
  try {
    // Texels lie in memory that all threads see: only where they are is sent.
    const outcome = (await pool.run(await readDeliveredFiles(folder), { signal })) as
      readonly FindingWords[] | TaskFailure
    return 'error' in outcome ? raise(outcome) : outcome
  } catch (error) {
    if (signal.aborted) throw new GristError('cancelled', 'The work was cancelled.')
    throw error
  }
}
