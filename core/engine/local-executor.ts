import { plainMemory } from '../field/field'
import type { Allocate } from '../field/field'
import type { Registry } from '../graph/registry'
import type { Executor } from './rows-task'
import { runRows } from './rows-task'

/** Runs every task on this thread. Cancelling takes effect between rows where the check can see it. */
export function localExecutor(registry: Registry, allocate: Allocate = plainMemory): Executor {
  return { threads: 1, allocate, run: async (task, isCancelled) => runRows(registry, task, isCancelled) }
}
