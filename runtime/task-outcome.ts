import type { ErrorCode, ErrorPlace } from '#core/errors'
import { GristError } from '#core/errors'
import { registry } from '#core/nodes/registry.generated'
import type { RowsTask } from '#core/engine/rows-task'
import { runRows } from '#core/engine/rows-task'

/** How a task ended, as plain data: error classes do not survive the way between threads. */
export type TaskFailure = { error: { code: ErrorCode; detail: string; place: ErrorPlace } }
export type TaskOutcome = TaskFailure | { prepared: unknown }

export const failureOf = ({ code, detail, place }: GristError): TaskFailure => ({ error: { code, detail, place } })

/** Does a task on this thread; `flag[0]` ≠ 0 cancels it. Faults of ours are thrown as they are. */
export function runTask(task: RowsTask, flag: Int32Array): TaskOutcome {
  try {
    return { prepared: runRows(registry, task, () => Atomics.load(flag, 0) !== 0) }
  } catch (error) {
    if (!(error instanceof GristError)) throw error
    return failureOf(error)
  }
}

/** Throws what the other thread could not. */
export function raise({ error: { code, detail, place } }: TaskFailure): never {
  throw new GristError(code, detail, place)
}

/** A flag that other threads see, raised when `isCancelled` turns true; looked at every 20 ms until `stop`. */
export function watchedFlag(isCancelled: () => boolean): { flag: Int32Array; stop(): void } {
  const flag = new Int32Array(new SharedArrayBuffer(4))
  const timer = setInterval(() => {
    if (isCancelled()) Atomics.store(flag, 0, 1)
  }, 20)
  return { flag, stop: () => clearInterval(timer) }
}
