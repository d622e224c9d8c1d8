import type { Remote } from 'comlink'
import { wrap } from 'comlink'
import { localExecutor } from '#core/engine/local-executor'
import type { Executor } from '#core/engine/rows-task'
import { sharedMemory } from '#core/field/field'
import { registry } from '#core/nodes/registry.generated'
import { raise, watchedFlag } from '../task-outcome'
import type { Helper } from './helper.worker'

/** Threads beyond this bring nothing at preview sizes. */
const MOST = 8

/**
 * Helper workers over shared memory; without cross-origin isolation (no SharedArrayBuffer) everything runs on the
 * calling worker, and a newer request is seen between steps only.
 */
export function browserExecutor(): Executor {
  if (!globalThis.crossOriginIsolated) return localExecutor(registry)
  const count = Math.max(1, Math.min(MOST, navigator.hardwareConcurrency - 1))
  const idle: Remote<Helper>[] = Array.from({ length: count }, () =>
    wrap<Helper>(new Worker(new URL('./helper.worker.ts', import.meta.url), { type: 'module' })),
  )
  const waiting: ((helper: Remote<Helper>) => void)[] = []
  const acquire = async (): Promise<Remote<Helper>> => idle.pop() ?? new Promise((resolve) => waiting.push(resolve))
  const release = (helper: Remote<Helper>): void => {
    const next = waiting.shift()
    if (next) next(helper)
    else idle.push(helper)
  }
  return {
    threads: count,
    allocate: sharedMemory,
    run: async (task, isCancelled) => {
      const helper = await acquire()
      const { flag, stop } = watchedFlag(isCancelled)
      try {
        const outcome = await helper.run(task, flag)
        return 'error' in outcome ? raise(outcome) : outcome.prepared
      } finally {
        stop()
        release(helper)
      }
    },
  }
}
