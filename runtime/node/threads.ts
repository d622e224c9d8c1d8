import { cpus } from 'node:os'
import type { Executor } from '#core/engine/rows-task'
import { sharedMemory } from '#core/field/field'
import { raise, watchedFlag } from '../task-outcome'
import type { TaskOutcome } from '../task-outcome'
import { openPool } from './pool'

/** All cores but one, so that the machine stays usable. */
export const usualThreads = (): number => Math.max(1, cpus().length - 1)

/**
 * An executor on worker threads over shared memory; `close` ends them. One thread is a worker too, so that this thread
 * stays free to hear signals and requests.
 */
export function openThreads(threads: number): Executor & { close(): Promise<void> } {
  const pool = openPool('rows-worker', threads)
  return {
    threads,
    allocate: sharedMemory,
    run: async (task, isCancelled) => {
      const { flag, stop } = watchedFlag(isCancelled)
      try {
        const outcome = (await pool.run({ task, flag })) as TaskOutcome
        return 'error' in outcome ? raise(outcome) : outcome.prepared
      } finally {
        stop()
      }
    },
    close: () => pool.destroy(),
  }
}
