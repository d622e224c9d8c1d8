import { useEffect, useState } from 'react'
import type { Run } from '../../contracts/run'
import { useEvents } from '../events/use-events'
import { useReload } from '../use-reload'

/**
 * Bakes as they were loaded, kept up to date by the server's events. Reloads when one ends, a picture is done, or the
 * line was cut.
 */
export function useRuns<R extends Run>(
  loaded: readonly R[],
  topic: 'runs' | `project:${string}` | `document:${string}` | `model:${string}`,
): readonly R[] {
  const [received, setReceived] = useState<ReadonlyMap<string, R>>(new Map())
  const reload = useReload()
  const belongs = (run: Run): boolean =>
    topic === 'runs' ||
    topic === `project:${run.projectId}` ||
    topic === (run.kind === 'mesh' ? `model:${run.modelId}` : `document:${run.documentId}`)
  useEvents(
    [topic],
    (notice) => {
      if (notice.type !== 'run' || !belongs(notice.run)) return
      if (notice.run.kind === 'picture') {
        if (notice.run.state === 'done') reload()
        return
      }
      // What belongs to the topic is of its kind.
      setReceived((before) => new Map(before).set(notice.run.id, notice.run as R))
      if (notice.run.endedAt) reload()
    },
    { onMended: reload },
  )
  const merged = new Map(loaded.map((run) => [run.id, run]))
  for (const [id, run] of received)
    if (!merged.has(id) || merged.get(id)!.changedAt < run.changedAt) merged.set(id, run)
  return [...merged.values()].sort((a, b) => (a.createdAt < b.createdAt ? 1 : -1))
}

/** Seconds that are left at the pace so far; null where too little is known. */
export function secondsLeft({ state, progress, startedAt }: Run, now: number): number | null {
  if (state !== 'running' || !startedAt || progress < 0.002) return null
  const seconds = (now - Date.parse(startedAt)) / 1000
  return progress < 0.03 && seconds < 5 ? null : (seconds / progress) * (1 - progress)
}

/** The present moment, once a second while `on`. */
export function useNow(loaded: number, on: boolean): number {
  const [now, setNow] = useState(loaded)
  useEffect(() => {
    if (!on) return
    const timer = setInterval(() => setNow(Date.now()), 1000)
    return () => clearInterval(timer)
  }, [on])
  return Math.max(now, loaded)
}
