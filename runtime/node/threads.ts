import { existsSync } from 'node:fs'
import { cpus } from 'node:os'
import { fileURLToPath } from 'node:url'
import { Piscina } from 'piscina'
import type { Executor } from '#core/engine/rows-task'
import { sharedMemory } from '#core/field/field'
import { raise, watchedFlag } from '../task-outcome'
import type { TaskOutcome } from '../task-outcome'

/** All cores but one, so that the machine stays usable. */
export const usualThreads = (): number => Math.max(1, cpus().length - 1)

/**
 * An executor on worker threads over shared memory; `close` ends them. One thread is a worker too, so that this thread
 * stays free to hear signals and requests.
 */
export function openThreads(threads: number): Executor & { close(): Promise<void> } {
  const source = new URL('./rows-worker.ts', import.meta.url)
  const asSource = existsSync(source)
  const pool = new Piscina({
    filename: fileURLToPath(asSource ? source : new URL('./rows-worker.js', import.meta.url)),
    minThreads: threads,
    maxThreads: threads,
    execArgv: asSource ? ['--import', import.meta.resolve('tsx')] : [],
  })
  return {
    threads,
    allocate: sharedMemory,
    run: async (task, isCancelled) => {
      const { flag, stop } = watchedFlag(isCancelled)
      try {
        raise((await pool.run({ task, flag })) as TaskOutcome)
      } finally {
        stop()
      }
    },
    close: () => pool.destroy(),
  }
}
