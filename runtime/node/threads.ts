import { cpus } from 'node:os'
import type { Executor } from '#core/engine/pass'
import type { ThreadOutcome } from '../shared-executor'
import { SharedExecutor } from '../shared-executor'
import { openPool } from './pool'

/** All cores but one, so that the machine stays usable. */
export const usualThreads = (): number => Math.max(1, cpus().length - 1)

/**
 * An executor on worker threads over shared memory; `close` ends them. One thread is a worker too, so that this thread
 * stays free to hear signals and requests.
 */
export function openThreads(threads: number): Executor & { close(): Promise<void> } {
  const pool = openPool('rows-worker', threads)
  const executor = new SharedExecutor(threads, async (message) => (await pool.run(message)) as ThreadOutcome)
  return Object.assign(executor, { close: () => pool.destroy() })
}
