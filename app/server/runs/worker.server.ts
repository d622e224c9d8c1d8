import { hostname } from 'node:os'
import { basename } from 'node:path'
import { GristError } from '#core/errors'
import type { Threads } from '#runtime/node/threads'
import type { MeshDetail } from '../../contracts/run'
import { RUN_KINDS } from '../../contracts/run'
import { LIMITS } from '#core/limits'
import { removeDeadFolders } from '#runtime/node/own-folders'
import { openThreads, usualThreads } from '#runtime/node/threads'
import type { Signals } from './bake.server'
import { bake, picture } from './bake.server'
import { listenToChanges } from '../database/changes.server'
import { database } from '../database/database.server'
import { repeatEvery } from '../database/every'
import { purge } from '../database/purge.server'
import { queue } from './queue.server'
import type { Claim } from './runs.server'
import { openRescuer } from './rescue.server'
import { claimRun, endRun, logRun, releaseRun, renewRun, requeueRun } from './runs.server'
import { errorLog } from '../database/error-log'
import { workOnModel } from './mesh.server'
import { HERE_EVERY, sayGone, sayHere } from './workers.server'

const report = errorLog('worker')

const BEAT = 400
const RESCUE = 5000
const PURGE = 3600_000
/** How often to look whether somebody edits. */
const EDITORS = 5000

/** Whether an edit was saved within the last minute. */
async function isSomebodyEditing(): Promise<boolean> {
  const { rows } = (await database().raw(
    `select exists (select 1 from documents where changed_at > now() - interval '1 minute') as editing`,
  )) as { rows: { editing: boolean }[] }
  return rows[0]!.editing
}

/** Takes runs from the queue, one of each kind at a time, until `close`. */
export async function startWorker(application: string, threads = usualThreads()): Promise<{ close(): Promise<void> }> {
  const name = `${hostname()}:${process.pid}`
  await removeDeadFolders()
  const boss = await queue()
  // Before any thread or timer is there: where it throws, nothing is left over.
  await sayHere(name)
  // Pictures have a thread of their own, so that they do not wait behind a bake.
  const executors = { bake: openThreads(threads), picture: openThreads(1), mesh: openThreads(threads) }
  let closing = false
  /** Of each run at work, by its id, what stops it, with the reason. */
  const stops = new Map<string, AbortController>()
  const stopListening = listenToChanges({ onCancel: (id) => stops.get(id)?.abort('cancel' satisfies Stop) })
  const working = new Set<Promise<void>>()
  for (const kind of RUN_KINDS)
    await boss.work<{ runId: string }>(kind, { batchSize: 1, pollingIntervalSeconds: 0.5 }, async ([job]) => {
      const claim = closing ? null : await claimRun(job!.data.runId, name)
      if (!claim) return
      const stop = new AbortController()
      stops.set(claim.id, stop)
      const work = attend(claim, executors[kind], application, name, stop)
      working.add(work)
      // What it came to stands in `runs`; where that could not be written, its beat ends and another takes over.
      await work.catch(report).finally(() => {
        working.delete(work)
        if (stops.get(claim.id) === stop) stops.delete(claim.id)
      })
    })
  const timers = [
    // The core that a bake leaves idle is for pages and saves.
    repeatEvery(EDITORS, 'worker', async () => {
      const idle = (await isSomebodyEditing()) ? 1 : 0
      executors.bake.leaveIdle(idle)
      executors.mesh.leaveIdle(idle)
    }),
    repeatEvery(HERE_EVERY, 'worker', () => sayHere(name)),
    repeatEvery(RESCUE, 'worker', openRescuer()),
    repeatEvery(PURGE, 'worker', () => purge()),
  ]
  return {
    close: async () => {
      closing = true
      for (const stop of stops.values()) stop.abort('closing' satisfies Stop)
      timers.forEach(clearInterval)
      await Promise.all(RUN_KINDS.map((kind) => boss.offWork(kind)))
      await Promise.allSettled(working)
      stopListening()
      await sayGone(name).catch(() => {})
      await Promise.all(Object.values(executors).map((one) => one.close()))
    },
  }
}

/** Why a run's work is stopped; the first reason counts. */
type Stop = 'cancel' | 'lost' | 'late' | 'closing' | 'yield'

async function attend(
  claim: Claim,
  executor: Threads,
  application: string,
  name: string,
  stop: AbortController,
): Promise<void> {
  let progress = 0
  let detail: MeshDetail | null = null
  const { signal } = stop
  const stopFor = (reason: Stop): void => stop.abort(reason)
  const started = Date.now()
  const timer = repeatEvery(BEAT, 'worker', async () => {
    if (Date.now() - started > LIMITS.job.seconds * 1000) stopFor('late')
    const answer = await renewRun(claim, progress, detail)
    // A bake of mesh data goes on where it was; one of maps would begin anew.
    if (answer !== 'on' && (answer !== 'yield' || claim.kind === 'mesh')) stopFor(answer)
  })
  const signals: Signals = {
    isCancelled: () => signal.aborted,
    signal,
    onProgress: (ratio) => (progress = ratio),
    onDetail: (now) => (detail = now),
  }
  try {
    await logRun(
      claim,
      `Begun by ${name} with ${executor.threads} ${executor.threads === 1 ? 'thread' : 'threads'}, attempt ${claim.attempt}.`,
    )
    if (claim.kind === 'mesh') await workOnModel(claim, executor, application, signals)
    else await (claim.kind === 'bake' ? bake(claim, executor, application, signals) : picture(claim, executor, signals))
  } catch (error) {
    await ended(claim, error, signal.aborted ? (signal.reason as Stop) : null)
  } finally {
    clearInterval(timer)
  }
}

/** What people are told: the name of a file, not where the server keeps it. */
function publicWords({ code, detail, place }: GristError): string {
  return new GristError(code, detail, place.file === undefined ? place : { ...place, file: basename(place.file) })
    .message
}

/** Words for a run that did not come to its end. */
async function ended(claim: Claim, error: unknown, stop: Stop | null): Promise<void> {
  if (stop === 'lost') return
  if (stop === 'closing') return releaseRun(claim)
  if (stop === 'yield')
    return requeueRun(claim, 'Something that somebody waits for goes before it; what is made is kept.', { died: false })
  if (stop === 'cancel') return endRun(claim, 'cancelled')
  if (stop === 'late')
    return endRun(claim, 'failed', { error: `It took longer than ${LIMITS.job.seconds / 3600} hours.` })
  if (error instanceof GristError)
    return endRun(claim, error.code === 'cancelled' ? 'cancelled' : 'failed', { error: publicWords(error) })
  console.error(error)
  await endRun(claim, 'failed', { error: 'Internal error; see the worker’s log.' })
}
