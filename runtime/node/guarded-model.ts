import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import type { TaskFailure } from '../task-outcome'
import { raise } from '../task-outcome'
import { openFairQueue } from './fair-queue'
import type { ModelResult, ModelTask } from './model-task'
import { openPool } from './pool'

/** Models that are read at the same time: a bad one holds up half of them at most. */
const THREADS = 2
/** Memory that arrays of one thread may take beside those of files; it bounds what a broken file can claim. */
const MEMORY_MB = 1536

const turns = openFairQueue(THREADS)
let pool: ReturnType<typeof openPool> | undefined

const threadPool = (): ReturnType<typeof openPool> =>
  (pool ??= openPool('model-worker', THREADS, {
    idleTimeout: 5000,
    resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB },
  }))

/** Starts a thread for a model that is about to arrive: it is there once the file is. */
export function wakeModelThread(): void {
  // Who reads the model is told what is wrong.
  threadPool()
    .run(null, { name: 'wake' })
    .catch(() => {})
}

/**
 * Reads a model, or lays one out, on a thread of its own, which is ended when it takes too long or too much memory, or is no longer
 * wanted. The mesh is written to `task.out` as it is kept. Throws mesh-invalid, file-unsupported, cancelled.
 */
export async function onModelThread(
  task: ModelTask,
  {
    client = 'here',
    milliseconds = LIMITS.model.milliseconds,
    signal,
  }: {
    client?: string
    milliseconds?: number
    signal?: AbortSignal
  } = {},
): Promise<ModelResult> {
  const threads = threadPool()
  return turns.run(client, async () => {
    const late = AbortSignal.timeout(milliseconds)
    try {
      const outcome = (await threads.run(task, {
        signal: signal ? AbortSignal.any([late, signal]) : late,
      })) as ModelResult | TaskFailure
      return 'error' in outcome ? raise(outcome) : outcome
    } catch (error) {
      if (error instanceof GristError) throw error
      if (signal?.aborted) throw new GristError('cancelled', 'The work was cancelled.')
      const what = task.kind === 'import' ? 'Reading the model' : 'Laying the model out'
      throw new GristError(
        'mesh-invalid',
        late.aborted ? `${what} took too long.` : `${what} failed: ${(error as Error).message}`,
        task.kind === 'import' ? { file: task.file } : {},
      )
    }
  })
}
