import { GristError } from '../errors'
import type { Allocate, Field } from '../field/field'
import type { ImagePyramid } from '../field/pyramid'
import type { Registry } from '../graph/define-node'

/** One node's work on a run of rows: plain data, so that it can go to another thread. */
export interface RowsTask {
  readonly type: string
  readonly params: Readonly<Record<string, unknown>>
  readonly inputs: Readonly<Record<string, Field | null>>
  readonly outputs: Readonly<Record<string, Field>>
  readonly from: number
  readonly to: number
  readonly width: number
  readonly height: number
  readonly documentSeed: number
  readonly metres: readonly [number, number]
  readonly heightMetres: number
  readonly images: ReadonlyMap<string, ImagePyramid>
}

/**
 * Runs tasks, here or on other threads. `allocate` gives memory that its threads can see.
 * A task rejects with `cancelled` soon after `isCancelled` turns true.
 */
export interface Executor {
  readonly threads: number
  readonly allocate: Allocate
  run(task: RowsTask, isCancelled: () => boolean): Promise<void>
}

/** Does one task now, on this thread. Throws `cancelled` between rows. */
export function runRows(registry: Registry, task: RowsTask, isCancelled: () => boolean): void {
  const node = registry.get(task.type)!
  const check = (): void => {
    if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
  }
  check()
  const rows = { from: task.from, to: task.to, check }
  // The graph's builder has checked ports and parameters against the definition.
  node.evaluate(task.inputs as never, task.params as never, task.outputs, { ...task, rows })
}
