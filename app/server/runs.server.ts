import { z } from 'zod'
import { LIMITS } from '#core/limits'
import type { Packing } from '#core/maps/packing'
import { parsePacking } from '#core/maps/packing'
import { recordNames } from '#core/maps/record'
import { database, one } from './database.server'
import { Problem } from './problem.server'
import type { Kind } from './queue.server'
import { queue } from './queue.server'

/** A worker that has not been heard of for so long is taken for dead, and its run is given to another. */
export const LEASE_SECONDS = 15

/** Workers that may die over a run before it is called failed. */
const MOST_ATTEMPTS = 3

export type RunState = 'queued' | 'running' | 'done' | 'failed' | 'cancelled'

export interface Run {
  readonly id: string
  readonly kind: Kind
  readonly projectId: string
  readonly project: string
  readonly documentId: string
  readonly document: string
  readonly revision: number
  readonly request: BakeRequest
  readonly state: RunState
  readonly progress: number
  readonly attempt: number
  readonly worker: string | null
  readonly error: string | null
  readonly result: string | null
  readonly log: { at: string; text: string }[]
  readonly createdAt: string
  readonly startedAt: string | null
  readonly endedAt: string | null
  readonly changedAt: string
}

export const bakeRequest = z.strictObject({
  packing: z.unknown().transform((json) => parsePacking(json)),
  width: z.int().min(1).max(LIMITS.side),
  dither: z.boolean(),
  sharpen: z.number().min(0).max(1).default(0),
  /** What file names may hold; the delivery’s number is given when it is asked for. */
  names: recordNames.default({}),
  /** Made again to be compared with this delivery; nothing new is kept. */
  compareWith: z.uuid().optional(),
})
export type BakeRequest = z.output<typeof bakeRequest>

const SELECT = `
  select r.id, r.kind, r.project_id as "projectId", p.name as project, r.document_id as "documentId", d.name as document,
    r.revision, '{"names": {}, "sharpen": 0}'::jsonb || r.request as request, r.state, r.progress, r.attempt, r.worker, r.error, r.result, r.log, r.created_at as "createdAt",
    r.started_at as "startedAt", r.ended_at as "endedAt", r.changed_at as "changedAt"
  from runs r join projects p on p.id = r.project_id join documents d on d.id = r.document_id`

/** Puts a run on the queue, to begin after some seconds. */
export async function enqueue(
  kind: Kind,
  documentId: string,
  revision: number,
  request: object,
  afterSeconds = 0,
): Promise<string> {
  const row = await one<{ id: string }>(
    database().raw(
      `insert into runs (kind, project_id, document_id, revision, request)
       select ?, project_id, id, ?, ? from documents where id = ? and deleted_at is null returning id`,
      [kind, revision, JSON.stringify(request), documentId],
    ),
  )
  if (!row) throw new Problem(404, 'There is no such document. It may have been deleted.')
  await (await queue()).send(kind, { runId: row.id }, { startAfter: afterSeconds })
  return row.id
}

/**
 * Asks for maps of a document as it is now. Deliveries of a document are numbered in the order they were asked for. What
 * nobody waits for stands `behind` all that somebody does.
 */
export async function askForMaps(
  documentId: string,
  request: { packing: Packing; width: number; dither: boolean; sharpen: number },
  { behind = false }: { behind?: boolean } = {},
): Promise<string> {
  const [asked] = await database().transaction(async (transaction) => {
    const { rows } = await transaction.raw<{ rows: { head: number; project: string }[] }>(
      `select d.head, p.name as project from documents d join projects p on p.id = d.project_id
       where d.id = ? and d.deleted_at is null for update of d`,
      [documentId],
    )
    if (!rows[0]) throw new Problem(404, 'There is no such document. It may have been deleted.')
    const { rows: last } = await transaction.raw<{ rows: { number: number }[] }>(
      `select coalesce(max((request->'names'->>'delivery')::int), 0) as number from runs
       where document_id = ? and kind = 'bake' and request->>'compareWith' is null`,
      [documentId],
    )
    const names = { project: rows[0].project, delivery: last[0]!.number + 1 }
    return transaction('runs')
      .insert({
        kind: 'bake',
        project_id: transaction('documents').where({ id: documentId }).select('project_id'),
        document_id: documentId,
        revision: rows[0].head,
        request: JSON.stringify({ ...request, names }),
      })
      .returning<{ id: string }[]>('id')
  })
  await (await queue()).send('bake', { runId: asked!.id }, { priority: behind ? -1 : 0 })
  return asked!.id
}

/** Bakes newest first; those of one document, of one project, or of all. */
export async function listRuns({
  projectId,
  documentId,
  limit = 100,
}: { projectId?: string; documentId?: string; limit?: number } = {}): Promise<Run[]> {
  const where = documentId ? 'and r.document_id = ?' : projectId ? 'and r.project_id = ?' : ''
  const given = [documentId ?? projectId].filter((one) => one !== undefined)
  const { rows } = await database().raw<{ rows: Run[] }>(
    `${SELECT} where r.kind = 'bake' and p.deleted_at is null ${where} order by r.created_at desc limit ?`,
    [...given, limit],
  )
  return rows
}

export async function findRun(id: string): Promise<Run | null> {
  return one<Run>(database().raw(`${SELECT} where r.id = ?`, [id]))
}

/**
 * Runs of every kind changed after a moment, and a little before it: what a transaction wrote carries the time at which it
 * began, and may be seen later than what came after it.
 */
export async function runsChangedAfter(moment: string): Promise<Run[]> {
  const { rows } = await database().raw<{ rows: Run[] }>(
    `${SELECT} where r.changed_at > ?::timestamptz - interval '5 seconds' order by r.changed_at`,
    [moment],
  )
  return rows
}

/** Cancels: what waits at once, what runs as soon as its worker looks, which it does twice a second. */
export async function cancelRun(id: string): Promise<void> {
  const { rows } = await database().raw<{ rows: unknown[] }>(
    `update runs set cancel_asked = true, changed_at = now(),
       state = case when state = 'queued' then 'cancelled' else state end,
       ended_at = case when state = 'queued' then now() else ended_at end
     where id = ? and state in ('queued', 'running') returning id`,
    [id],
  )
  if (rows.length === 0) throw new Problem(409, 'This bake has ended already.')
}

/** Puts a failed or cancelled run back on the queue. */
export async function retryRun(id: string): Promise<void> {
  const row = await one<{ kind: Kind }>(
    database().raw(
      `update runs set state = 'queued', cancel_asked = false, error = null, progress = 0, started_at = null, ended_at = null, changed_at = now()
       where id = ? and state in ('failed', 'cancelled') returning kind`,
      [id],
    ),
  )
  if (!row) throw new Problem(409, 'Only a bake that failed or was cancelled can be tried again.')
  await (await queue()).send(row.kind, { runId: id })
}

/** What follows is the worker's side. `attempt` is the proof of being the one at work. */
export interface Claim {
  readonly id: string
  readonly attempt: number
  readonly kind: Kind
  readonly projectId: string
  readonly documentId: string
  readonly revision: number
  readonly request: BakeRequest
}

/** Takes a run that waits. Null where it is taken, done or cancelled. */
export async function claimRun(id: string, worker: string): Promise<Claim | null> {
  return one<Claim>(
    database().raw(
      `update runs set state = 'running', attempt = attempt + 1, worker = ?, progress = 0, started_at = now(), changed_at = now(),
         lease_until = now() + interval '${LEASE_SECONDS} seconds'
       where id = ? and state = 'queued'
       returning id, attempt, kind, project_id as "projectId", document_id as "documentId", revision, request`,
      [worker, id],
    ),
  )
}

/** Renews the lease and tells how far the work is. `lost`: somebody else has it now. */
export async function renewRun({ id, attempt }: Claim, progress: number): Promise<'on' | 'cancel' | 'lost'> {
  const row = await one<{ cancel_asked: boolean }>(
    database().raw(
      `update runs set lease_until = now() + interval '${LEASE_SECONDS} seconds',
         changed_at = case when abs(progress - ?::real) > 0.002 then now() else changed_at end, progress = ?
       where id = ? and attempt = ? and state = 'running' returning cancel_asked`,
      [progress, progress, id, attempt],
    ),
  )
  return row ? (row.cancel_asked ? 'cancel' : 'on') : 'lost'
}

export async function logRun({ id, attempt }: Pick<Claim, 'id' | 'attempt'>, text: string): Promise<void> {
  const line = JSON.stringify([{ at: new Date().toISOString(), text }])
  await database().raw('update runs set log = log || ?::jsonb, changed_at = now() where id = ? and attempt = ?', [
    line,
    id,
    attempt,
  ])
}

/** Ends a run without a delivery. */
export async function endRun(
  { id, attempt }: Claim,
  state: 'done' | 'failed' | 'cancelled',
  words: { error?: string; result?: string } = {},
): Promise<void> {
  await database().raw(
    `update runs set state = ?, error = ?, result = ?, progress = case when ? = 'done' then 1 else progress end, ended_at = now(), changed_at = now(), lease_until = null
     where id = ? and attempt = ? and state = 'running'`,
    [state, words.error ?? null, words.result ?? null, state, id, attempt],
  )
}

/** Gives a run up before its lease ends, so that another takes it over at once. */
export async function releaseRun({ id, attempt }: Claim): Promise<void> {
  await database().raw(`update runs set lease_until = now() where id = ? and attempt = ? and state = 'running'`, [
    id,
    attempt,
  ])
}

/**
 * Gives runs whose worker has died back to the queue; also those that wait although their job got lost. Called every few
 * seconds by everyone; a job too many does no harm, as a run is claimed once.
 */
export async function rescueRuns(): Promise<void> {
  const line = JSON.stringify([
    { at: new Date().toISOString(), text: 'The worker was not heard of any more; another takes over.' },
  ])
  await database().raw(
    `update runs set state = 'failed', error = ?, ended_at = now(), changed_at = now(), lease_until = null
     where state = 'running' and lease_until < now() and attempt >= ${MOST_ATTEMPTS}`,
    [`Its worker died ${MOST_ATTEMPTS} times. A smaller size may need less memory.`],
  )
  const { rows: orphans } = await database().raw<{ rows: { id: string; kind: Kind }[] }>(
    `update runs set state = case when cancel_asked then 'cancelled' else 'queued' end, lease_until = null, progress = 0, log = log || ?::jsonb, changed_at = now()
     where state = 'running' and lease_until < now() returning id, kind`,
    [line],
  )
  const { rows: waiting } = await database().raw<{ rows: { id: string; kind: Kind }[] }>(
    `update runs set changed_at = now() where state = 'queued' and changed_at < now() - interval '60 seconds'
     and not exists (select 1 from runs busy where busy.state = 'running') returning id, kind`,
  )
  const boss = await queue()
  for (const { id, kind } of [...orphans, ...waiting]) await boss.send(kind, { runId: id })
}
