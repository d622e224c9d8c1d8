import { GristError } from '../errors'
import type { Allocate, Field } from '../field/field'
import type { ImagePyramid } from '../field/pyramid'
import type { NodeContext } from '../graph/define-node'
import type { Registry } from '../graph/registry'

/** One node's work on a run of rows: plain data, so that it can go to another thread. */
export interface RowsTask {
  readonly type: string
  readonly params: Readonly<Record<string, unknown>>
  readonly inputs: Readonly<Record<string, Field | null>>
  /** Null: the work that all rows share is asked for (NodeDefinition.prepare). */
  readonly outputs: Readonly<Record<string, Field>> | null
  /** What that work gave. */
  readonly prepared?: unknown
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
 * A task rejects with `cancelled` soon after `isCancelled` turns true; it resolves to what was prepared, if that was asked
 * for.
 */
export interface Executor {
  readonly threads: number
  readonly allocate: Allocate
  /** Told of memory that is not used any more. */
  readonly free?: (buffer: ArrayBufferLike) => void
  run(task: RowsTask, isCancelled: () => boolean): Promise<unknown>
}

/** Does one task now, on this thread. Throws `cancelled` between rows. */
export function runRows(registry: Registry, task: RowsTask, isCancelled: () => boolean): unknown {
  const node = registry.get(task.type)!
  const check = (): void => {
    if (isCancelled()) throw new GristError('cancelled', 'The work was cancelled.')
  }
  check()
  const context: NodeContext = { ...task, rows: { from: task.from, to: task.to, check } }
  // The graph's builder has checked ports and parameters against the definition.
  if (!task.outputs) return node.prepare!(task.inputs as never, task.params as never, context)
  node.evaluate(task.inputs as never, task.params as never, task.outputs, { ...context, prepared: task.prepared })
  return undefined
}
