import { database } from '../database/database.server'
import type { RunKind } from '../../contracts/run'
import { requeueRun, send } from './runs.server'

/** A worker whose beat has not changed for so long is taken for dead, and its run is given to another. */
export const SILENCE_SECONDS = 15
/** A run that has stood so long on the queue without a message is sent again. */
const LOST_SECONDS = 30

interface Watched {
  readonly beat: string
  /** When this beat was first seen, in milliseconds of this process's clock. */
  readonly since: number
}

/**
 * Looks after runs whose worker died and those whose message got lost. Times are taken by a clock that only goes forward,
 * from what is seen to change, so neither the database's clock nor a worker's matters. Several may look at once: an attempt
 * ends once, and a message too many does no harm.
 */
export function openRescuer(now: () => number = () => performance.now()): () => Promise<void> {
  let running = new Map<string, Watched>()
  let waiting = new Map<string, Watched>()

  /** What stayed as it was for `seconds`. */
  function stale<T extends { id: string; beat: string }>(
    before: Map<string, Watched>,
    rows: readonly T[],
    seconds: number,
  ): { seen: Map<string, Watched>; found: T[] } {
    const at = now()
    const seen = new Map(
      rows.map(({ id, beat }) => {
        const known = before.get(id)
        return [id, known?.beat === beat ? known : { beat, since: at }]
      }),
    )
    return { seen, found: rows.filter(({ id }) => at - seen.get(id)!.since >= seconds * 1000) }
  }

  return async () => {
    const { rows } = await database().raw<{ rows: { id: string; attempt: number; beat: string }[] }>(
      `select id, attempt, attempt || '/' || beat as beat from runs where state = 'running'`,
    )
    const dead = stale(running, rows, SILENCE_SECONDS)
    running = dead.seen
    for (const run of dead.found)
      await requeueRun(run, 'The worker was not heard of any more; another takes over.', { died: true })

    const { rows: unsent } = await database().raw<{
      rows: { id: string; kind: RunKind; lowPriority: boolean; beat: string }[]
    }>(
      `select r.id, r.kind, r.low_priority as "lowPriority", r.attempt::text as beat from runs r where r.state = 'queued' and not exists
         (select 1 from queue.job j where j.name = r.kind and j.state in ('created', 'retry') and j.data->>'runId' = r.id::text)`,
    )
    const lost = stale(waiting, unsent, LOST_SECONDS)
    waiting = lost.seen
    for (const run of lost.found) {
      await send(run.kind, run.id, run)
      waiting.delete(run.id)
    }
  }
}
