import { database } from './database.server'
import { every } from './every'
import type { Run } from './runs.server'
import { runsChangedAfter } from './runs.server'

const EVERY = 400
const HEARTBEAT = 15000
/** How far back a new watcher is told, in milliseconds; longer than a page takes to load. */
const CATCH_UP = 30000

export type Notice = { type: 'run'; run: Run } | { type: 'document'; id: string; head: number }

interface Watcher {
  readonly document: string | null
  head: number
  tell(notice: Notice): void
}

const watchers = new Set<Watcher>()
let timer: NodeJS.Timeout | undefined
let last = ''
/** What was told of late: a run's id and when it changed. */
let told = new Map<string, string>()

/** One look at the database for everybody who watches. */
async function look(): Promise<void> {
  last ||= (await database().raw<{ rows: { now: string }[] }>('select now()')).rows[0]!.now
  const runs = await runsChangedAfter(last)
  for (const run of runs) {
    if (run.changedAt > last) last = run.changedAt
    if (told.get(run.id) === run.changedAt) continue
    for (const watcher of watchers) watcher.tell({ type: 'run', run })
  }
  told = new Map(runs.map((run) => [run.id, run.changedAt]))
  const ids = [...new Set([...watchers].flatMap(({ document }) => document ?? []))]
  if (ids.length === 0) return
  const heads = (await database()('documents').whereIn('id', ids).select('id', 'head')) as {
    id: string
    head: number
  }[]
  for (const { id, head } of heads)
    for (const watcher of watchers)
      if (watcher.document === id && watcher.head !== head) {
        watcher.head = head
        watcher.tell({ type: 'document', id, head })
      }
}

function stop(): void {
  if (watchers.size > 0) return
  clearInterval(timer)
  timer = undefined
  last = ''
  told = new Map()
}

/** Server-sent events (HTML Living Standard, section 9.2): runs as they change, and the head of one document. */
export function eventStream(request: Request, document: string | null): Response {
  const encoder = new TextEncoder()
  let close = (): void => {}
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string): void => controller.enqueue(encoder.encode(text))
      const watcher: Watcher = { document, head: -1, tell: (notice) => send(`data: ${JSON.stringify(notice)}\n\n`) }
      const beat = setInterval(() => send(': still here\n\n'), HEARTBEAT)
      close = () => {
        clearInterval(beat)
        watchers.delete(watcher)
        stop()
        close = () => {}
        try {
          controller.close()
        } catch {
          // The reader has gone already.
        }
      }
      request.signal.addEventListener('abort', () => close())
      watchers.add(watcher)
      send('retry: 1000\n\n')
      // What changed while the page was on its way.
      void runsChangedAfter(new Date(Date.now() - CATCH_UP).toISOString()).then(
        (runs) => runs.forEach((run) => watchers.has(watcher) && watcher.tell({ type: 'run', run })),
        () => {},
      )
      timer ??= every(EVERY, 'watch', look)
    },
    cancel: () => close(),
  })
  return new Response(body, {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache, no-transform' },
  })
}
