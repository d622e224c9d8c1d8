import { cpus } from 'node:os'
import type { ThreadOutcome } from '../shared-executor'
import { SharedExecutor } from '../shared-executor'
import { openPool } from './pool'

/** A thread for every core. */
export const usualThreads = (): number => Math.max(1, cpus().length)

/** Threads that do passes, and pack and code rows of files. */
export type Threads = SharedExecutor & { close(): Promise<void> }

/**
 * An executor on worker threads over shared memory; `close` ends them. One thread is a worker too, so that this thread
 * stays free to hear signals and requests.
 */
export function openThreads(threads: number): Threads {
  const pool = openPool('rows-worker', threads)
  const executor = new SharedExecutor(threads, async (message) => (await pool.run(message)) as ThreadOutcome)
  const close = async (): Promise<void> => {
    executor.end()
    await pool.destroy()
  }
  return Object.assign(executor, { close })
}
