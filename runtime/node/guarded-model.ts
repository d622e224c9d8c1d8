import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import type { OverlapFacts } from '#core/mesh/layout-facts'
import type { MeshSummary, SummaryBesideOverlaps } from '#core/mesh/mesh-summary'
import { wholeSummary } from '#core/mesh/mesh-summary'
import type { TaskFailure } from '../task-outcome'
import { raise } from '../task-outcome'
import { openFairQueue } from './fair-queue'
import type { FoundTexture, LookTask, ModelTask } from './model-task'
import { openPool } from './pool'

/** Models that are read at the same time: a bad one holds up half of them at most. */
const MODELS = 2
/** A mesh is looked at by as many at the same time. */
const THREADS_EACH = 2
/** Memory that arrays of one thread may take beside those of files; it bounds what a broken file can claim. */
const MEMORY_MB = 1536

const turns = openFairQueue(MODELS)
let pool: ReturnType<typeof openPool> | undefined

const threadPool = (): ReturnType<typeof openPool> =>
  (pool ??= openPool('model-worker', MODELS * THREADS_EACH, {
    idleTimeout: 5000,
    resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB },
  }))

/** Starts threads for a model that is about to arrive: they are there once the file is. */
export function wakeModelThreads(): void {
  for (let i = 0; i < THREADS_EACH; i++)
    threadPool()
      .run(null, { name: 'wake' })
      // Who reads the model is told what is wrong.
      .catch(() => {})
}

/** A mesh that was written to a file; what is known of it follows. */
export interface MadeMesh {
  readonly textures: readonly FoundTexture[]
  readonly summary: Promise<MeshSummary>
}

/**
 * Reads a model, or lays one out, on threads of their own, which are ended when they take too long or too much memory, or are no longer
 * wanted. `keep` gets the mesh while it is still looked at, and says when it is done with it. Throws mesh-invalid, file-unsupported,
 * cancelled, and what `keep` throws.
 */
export async function onModelThreads<T>(
  task: ModelTask,
  keep: (made: MadeMesh) => Promise<T>,
  {
    client = 'here',
    milliseconds = LIMITS.model.milliseconds,
    signal,
  }: {
    client?: string
    milliseconds?: number
    signal?: AbortSignal
  } = {},
): Promise<T> {
  const threads = threadPool()
  return turns.run(client, async () => {
    const late = AbortSignal.timeout(milliseconds)
    const done = new AbortController()
    const signals = AbortSignal.any([late, done.signal, ...(signal ? [signal] : [])])
    const ask = async <R extends object>(what: ModelTask | LookTask): Promise<R> => {
      try {
        const outcome = (await threads.run(what, { signal: signals })) as R | TaskFailure
        return 'error' in outcome ? raise(outcome) : outcome
      } catch (error) {
        if (error instanceof GristError) throw error
        if (signal?.aborted) throw new GristError('cancelled', 'The work was cancelled.')
        const work = task.kind === 'import' ? 'Reading the model' : 'Laying the model out'
        throw new GristError(
          'mesh-invalid',
          late.aborted ? `${work} took too long.` : `${work} failed: ${(error as Error).message}`,
          task.kind === 'import' ? { file: task.file } : {},
        )
      }
    }
    try {
      const { textures } = await ask<Pick<MadeMesh, 'textures'>>(task)
      const summary = Promise.all([
        ask<SummaryBesideOverlaps>({ kind: 'beside overlaps', mesh: task.out }),
        ask<OverlapFacts[][]>({ kind: 'overlaps', mesh: task.out }),
      ]).then(([rest, overlaps]) => wholeSummary(rest, overlaps))
      // It may fail before anybody waits for it.
      summary.catch(() => {})
      return await keep({ textures, summary })
    } finally {
      done.abort()
    }
  })
}
