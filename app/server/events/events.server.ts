import type { Notice } from '../../contracts/notice'
import { z } from 'zod'
import { usedBytes } from '../storage/blobs.server'
import { listenToChanges } from '../database/changes.server'
import { database } from '../database/database.server'
import { repeatEvery } from '../database/every'
import { errorLog } from '../database/error-log'
import { Problem, checked } from '../http/problem.server'
import { openRescuer } from '../runs/rescue.server'
import type { Run } from '../../contracts/run'
import { runsChangedAfter } from '../runs/runs.server'
import { SILENT_SECONDS, secondsSinceWorker } from '../runs/workers.server'

const HEARTBEAT = 15000
/** How often it is asked whether a worker is there, in milliseconds, and whether one has died, in such looks. */
const HEALTH_EVERY = 2000
const RESCUE_EVERY = 2
/** Runs that change in a burst are told together after so many milliseconds. */
const BURST = 100
/** How far back a new watcher is told, in milliseconds; longer than a page takes to load. */
const CATCH_UP = 30000
/** Streams that one client may hold; a browser holds one for all its tabs. */
const MAX_STREAMS = 24

/** What a stream may be about besides the health of all: all runs, those of a project or a model, or a document with its runs. */
const topicSchema = z.union([z.enum(['runs', 'health']), z.string().regex(/^(project|document|model):[0-9a-f-]{36}$/)])
export const topicsSchema = z.array(topicSchema).min(1).max(60)

interface Watcher {
  readonly client: string
  readonly topics: ReadonlySet<string>
  readonly heads: Map<string, number>
  /** What it was told; undefined before it was told anything. */
  trouble: string | null | undefined
  notify(notice: Notice): void
}

const watchers = new Set<Watcher>()
let timer: NodeJS.Timeout | undefined
let burst: NodeJS.Timeout | undefined
let stopListening: (() => void) | undefined
let last = ''
let looks = 0
let trouble: string | null = null
let rescue = openRescuer()
/** What was told of late: a run's id and when it changed. */
let sent = new Map<string, string>()

const isAbout = ({ topics }: Watcher, run: Run): boolean =>
  topics.has('runs') ||
  topics.has(`project:${run.projectId}`) ||
  topics.has(run.kind === 'mesh' ? `model:${run.modelId}` : `document:${run.documentId}`)

const tellTrouble = errorLog('watch')

/** Everybody who watches is told what the database tells; after a time without it, what happened meanwhile. */
const listen = (): (() => void) =>
  listenToChanges({
    onDocument: tellHead,
    onRuns: () =>
      (burst ??= setTimeout(() => {
        burst = undefined
        void lookAtRuns().catch(tellTrouble)
      }, BURST)),
    onListening: () => void Promise.all([lookAtRuns(), lookAtHeads()]).catch(tellTrouble),
  })

/** One look at what ails, and now and then at what a dead worker left. */
async function poll(): Promise<void> {
  await lookAtHealth()
  if (looks++ % RESCUE_EVERY === 0) await rescue()
}

/** How workers, storage and the database are, for everybody who watches. */
async function lookAtHealth(): Promise<void> {
  try {
    trouble = (await workersInWords()) ?? (await storageInWords())
  } catch (error) {
    trouble = 'The database cannot be reached; edits and bakes wait for it.'
    throw error
  } finally {
    for (const watcher of watchers)
      if (watcher.trouble !== trouble) {
        watcher.trouble = trouble
        watcher.notify({ type: 'health', trouble })
      }
  }
}

async function workersInWords(): Promise<string | null> {
  const seconds = await secondsSinceWorker()
  if (seconds === null) return 'No worker has been heard of yet; bakes wait.'
  return seconds < SILENT_SECONDS ? null : `No worker has been heard of for ${agoInWords(seconds)}; bakes wait.`
}

/** Share of the quota from which people are told. */
const NEARLY_FULL = 0.9

async function storageInWords(): Promise<string | null> {
  const { used, quota } = await usedBytes()
  if (used < NEARLY_FULL * quota) return null
  const gb = (bytes: number): string => (bytes / 2 ** 30).toFixed(1)
  return `Images and deliveries take ${gb(used)} of at most ${gb(quota)} GB. Delete projects that are no longer needed.`
}

/** Coarse, so that it is not told anew with every look. */
const agoInWords = (seconds: number): string =>
  seconds < 60 ? `${Math.floor(seconds / 20) * 20} s` : `${Math.floor(seconds / 60)} min`

async function lookAtRuns(): Promise<void> {
  last ||= (await database().raw<{ rows: { now: string }[] }>('select now()')).rows[0]!.now
  const runs = await runsChangedAfter(last)
  for (const run of runs) {
    if (run.changedAt > last) last = run.changedAt
    if (sent.get(run.id) === run.changedAt) continue
    for (const watcher of watchers) if (isAbout(watcher, run)) watcher.notify({ type: 'run', run })
  }
  sent = new Map(runs.map((run) => [run.id, run.changedAt]))
}

async function lookAtHeads(): Promise<void> {
  const prefix = 'document:'
  const ids = new Set(
    [...watchers].flatMap(({ topics }) =>
      [...topics].flatMap((topic) => (topic.startsWith(prefix) ? [topic.slice(prefix.length)] : [])),
    ),
  )
  if (ids.size === 0) return
  const heads = (await database()('documents')
    .whereIn('id', [...ids])
    .select('id', 'head')) as { id: string; head: number }[]
  for (const { id, head } of heads) tellHead(id, head)
}

function tellHead(id: string, head: number): void {
  for (const watcher of watchers)
    if (watcher.topics.has(`document:${id}`) && watcher.heads.get(id) !== head) {
      watcher.heads.set(id, head)
      watcher.notify({ type: 'document', id, head })
    }
}

function stop(): void {
  if (watchers.size > 0) return
  clearInterval(timer)
  clearTimeout(burst)
  stopListening?.()
  timer = burst = stopListening = undefined
  last = ''
  looks = 0
  trouble = null
  rescue = openRescuer()
  sent = new Map()
}

/** Server-sent events (HTML Living Standard, section 9.2) about the topics asked for. Throws a Problem 429 beyond the limit. */
export function eventStream(request: Request, client: string, wanted: readonly string[]): Response {
  const topics = new Set(checked(topicsSchema, wanted))
  if ([...watchers].filter((one) => one.client === client).length >= MAX_STREAMS)
    throw new Problem(429, `At most ${MAX_STREAMS} event streams from one place. Close some windows.`)
  const encoder = new TextEncoder()
  let close = (): void => {}
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string): void => {
        try {
          controller.enqueue(encoder.encode(text))
        } catch {
          // The reader has gone.
          close()
        }
      }
      const notify = (notice: Notice): void => send(`data: ${JSON.stringify(notice)}\n\n`)
      const watcher: Watcher = { client, topics, heads: new Map(), trouble: undefined, notify }
      const beat = setInterval(() => send(': still here\n\n'), HEARTBEAT)
      close = () => {
        close = () => {}
        clearInterval(beat)
        watchers.delete(watcher)
        stop()
        try {
          controller.close()
        } catch {
          // It is closed already.
        }
      }
      request.signal.addEventListener('abort', () => close())
      watchers.add(watcher)
      send('retry: 1000\n\n')
      // What changed while the page was on its way.
      void runsChangedAfter(new Date(Date.now() - CATCH_UP).toISOString()).then(
        (runs) => runs.forEach((run) => watchers.has(watcher) && isAbout(watcher, run) && notify({ type: 'run', run })),
        () => {},
      )
      timer ??= repeatEvery(HEALTH_EVERY, 'watch', poll)
      stopListening ??= listen()
      void Promise.all([lookAtHealth(), lookAtHeads()]).catch(tellTrouble)
    },
    cancel: () => close(),
  })
  return new Response(body, {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache, no-transform' },
  })
}
