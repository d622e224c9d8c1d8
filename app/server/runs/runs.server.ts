import type { OwnSettings } from '#core/document/own-settings'
import type { Sharpening } from '#core/document/sharpening'
import type {
  BakeRequest,
  BakeRun,
  MeshDetail,
  MeshRequest,
  MeshRun,
  Run,
  RunKind,
  RunState,
} from '../../contracts/run'
import type { PartPlace } from '../../contracts/parts'
import { located } from '#core/errors'
import { tileSize } from '#core/field/field'
import type { Packing } from '#core/texture/packing'
import { database, one } from '../database/database.server'
import { Problem } from '../http/problem.server'
import { queue } from './queue.server'

/** Workers that may die over a run before it is called failed. Restarts in order do not count. */
const MAX_DEATHS = 3

const SELECT = `
  select r.id, r.kind, r.project_id as "projectId", p.name as project, r.document_id as "documentId", r.model_id as "modelId",
    coalesce(d.name, m.name) as subject, r.detail, r.revision, case when r.kind = 'mesh' then r.request else '{"names": {}, "sharpen": 0, "own": {"layers": {}}}'::jsonb || r.request end as request, r.state, r.progress, r.attempt, r.worker, r.error, r.result, r.log, r.created_at as "createdAt",
    r.started_at as "startedAt", r.ended_at as "endedAt", r.changed_at as "changedAt"
  from runs r join projects p on p.id = r.project_id left join documents d on d.id = r.document_id
    left join models m on m.id = r.model_id`

/** Puts a run on the queue, to begin after some seconds. */
export async function enqueue(
  kind: 'bake' | 'picture',
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
  await send(kind, row.id, { startAfter: afterSeconds })
  return row.id
}

/**
 * Asks for maps of a document at a revision, by default the newest. Deliveries of a document are numbered in the order they were asked for. What
 * nobody waits for is of `lowPriority`: after all that somebody does.
 */
export async function enqueueBake(
  documentId: string,
  request: {
    packing: Packing
    width: number
    dither: boolean
    sharpen: Sharpening
    own?: OwnSettings
    on?: PartPlace
    checks?: boolean
    replaced?: BakeRequest['replaced']
    together?: string
  },
  { lowPriority = false, revision }: { lowPriority?: boolean; revision?: number } = {},
): Promise<string> {
  const [asked] = await database().transaction(async (transaction) => {
    const { rows } = await transaction.raw<{ rows: { head: number; project: string }[] }>(
      `select d.head, p.name as project from documents d join projects p on p.id = d.project_id
       where d.id = ? and d.deleted_at is null for update of d`,
      [documentId],
    )
    if (!rows[0]) throw new Problem(404, 'There is no such document. It may have been deleted.')
    if (revision !== undefined && revision > rows[0].head) throw new Problem(404, 'There is no such revision.')
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
        revision: revision ?? rows[0].head,
        request: JSON.stringify({ ...request, names }),
        low_priority: lowPriority,
      })
      .returning<{ id: string }[]>('id')
  })
  await send('bake', asked!.id, { lowPriority })
  return asked!.id
}

/** Asks for maps of several documents of a project, all by one packing; of all or none. Throws size-invalid. */
export async function enqueueBakes(
  projectId: string,
  documents: readonly string[],
  request: Parameters<typeof enqueueBake>[1],
): Promise<void> {
  const known = await database()('documents')
    .where({ project_id: projectId, deleted_at: null })
    .whereIn('id', documents)
    .select<{ id: string; name: string; metres: [number, number] }[]>(
      'id',
      'name',
      database().raw("summary->'metres' as metres"),
    )
  if (known.length < documents.length) throw new Problem(404, 'One of the materials is not here any more.')
  for (const { name, metres } of known) located({ document: name }, () => tileSize(request.width, metres))
  for (const id of documents) await enqueueBake(id, request)
}

/** Asks for work on a model. What nobody waits for is of `lowPriority`. Throws a Problem 404. */
export async function enqueueMesh(
  modelId: string,
  request: MeshRequest,
  { lowPriority = false }: { lowPriority?: boolean } = {},
): Promise<string> {
  const row = await one<{ id: string }>(
    database().raw(
      `insert into runs (kind, project_id, model_id, request, low_priority)
       select 'mesh', project_id, id, ?, ? from models where id = ? and deleted_at is null returning id`,
      [JSON.stringify(request), lowPriority, modelId],
    ),
  )
  if (!row) throw new Problem(404, 'There is no such model. It may have been deleted.')
  await send('mesh', row.id, { lowPriority })
  return row.id
}

/** Bakes that one page of a list holds. */
export const RUNS_PAGE = 100

/** Bakes newest first; those of one document or model, of one project, or of all; a page of them, those asked for `before` a moment. */
export async function listRuns({
  projectId,
  documentId,
  modelId,
  before,
  limit = RUNS_PAGE,
}: {
  projectId?: string
  documentId?: string
  modelId?: string
  before?: string
  limit?: number
} = {}): Promise<Run[]> {
  const of = documentId
    ? 'and r.document_id = ?'
    : modelId
      ? 'and r.model_id = ?'
      : projectId
        ? 'and r.project_id = ?'
        : ''
  const where = `${of} ${before === undefined ? '' : 'and r.created_at < ?::timestamptz'}`
  const given = [documentId ?? modelId ?? projectId, before].filter((one) => one !== undefined)
  const { rows } = await database().raw<{ rows: Run[] }>(
    `${SELECT} where r.kind <> 'picture' and p.deleted_at is null ${where} order by r.created_at desc limit ?`,
    [...given, limit],
  )
  return rows
}

/** Bakes of one document, newest first. */
export const listBakes = async (documentId: string, limit?: number): Promise<BakeRun[]> =>
  (await listRuns({ documentId, limit })) as BakeRun[]

/** Work on one model, newest first. */
export const listMeshRuns = async (modelId: string, limit?: number): Promise<MeshRun[]> =>
  (await listRuns({ modelId, limit })) as MeshRun[]

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

/** Cancels: what waits at once, what runs as soon as its worker is told, or looks, which it does twice a second. */
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

/** Puts a failed or cancelled run back on the queue; deaths are counted anew. */
export async function retryRun(id: string): Promise<void> {
  const row = await one<{ kind: RunKind }>(
    database().raw(
      `update runs set state = 'queued', cancel_asked = false, low_priority = false, error = null, progress = 0, deaths = 0, started_at = null, ended_at = null, changed_at = now()
       where id = ? and state in ('failed', 'cancelled') returning kind`,
      [id],
    ),
  )
  if (!row) throw new Problem(409, 'Only a bake that failed or was cancelled can be tried again.')
  await send(row.kind, id)
}

/** Tells the queue of a run that stands in the table; where that fails the run is found without a message later. */
export async function send(
  kind: RunKind,
  runId: string,
  { startAfter, lowPriority = false }: { startAfter?: number; lowPriority?: boolean } = {},
): Promise<void> {
  try {
    await (await queue()).send(kind, { runId }, { startAfter, priority: lowPriority ? -1 : 0 })
  } catch (error) {
    console.error('queue:', (error as Error).message)
  }
}

/**
 * What follows is the worker's side. `attempt` is the proof of being the one at work; it only ever grows, so that a worker
 * that was thought dead and comes back is never taken for a later one.
 */
interface AnyClaim {
  readonly id: string
  readonly attempt: number
  readonly projectId: string
}

export type BakeClaim = AnyClaim & {
  readonly kind: 'bake' | 'picture'
  readonly documentId: string
  readonly revision: number
  readonly request: BakeRequest
}

export type MeshClaim = AnyClaim & { readonly kind: 'mesh'; readonly modelId: string; readonly request: MeshRequest }

export type Claim = BakeClaim | MeshClaim

/** Takes a run that waits. Null where it is taken, done or cancelled. */
export async function claimRun(id: string, worker: string): Promise<Claim | null> {
  return one<Claim>(
    database().raw(
      `update runs set state = 'running', detail = null, attempt = attempt + 1, worker = ?, progress = 0, started_at = now(), changed_at = now(), beat = beat + 1
       where id = ? and state = 'queued'
       returning id, attempt, kind, project_id as "projectId", document_id as "documentId", model_id as "modelId", revision, request`,
      [worker, id],
    ),
  )
}

/**
 * Says that the worker is alive and how far the work is. `lost`: somebody else has it now. `yield`: somebody waits for another of its
 * kind, and nobody for this.
 */
export async function renewRun(
  { id, attempt }: Pick<Claim, 'id' | 'attempt'>,
  progress: number,
  detail: MeshDetail | null = null,
): Promise<'on' | 'cancel' | 'lost' | 'yield'> {
  const told = detail === null ? null : JSON.stringify(detail)
  const row = await one<{ cancel_asked: boolean; yields: boolean }>(
    database().raw(
      `update runs set beat = beat + 1,
         changed_at = case when abs(progress - ?::real) > 0.002 or detail is distinct from coalesce(?::jsonb, detail) then now() else changed_at end,
         progress = ?, detail = coalesce(?::jsonb, detail)
       where id = ? and attempt = ? and state = 'running' returning cancel_asked, low_priority and exists (
         select 1 from runs o where o.kind = runs.kind and o.state = 'queued' and not o.low_priority) as yields`,
      [progress, told, progress, told, id, attempt],
    ),
  )
  if (!row) return 'lost'
  return row.cancel_asked ? 'cancel' : row.yields ? 'yield' : 'on'
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
  { id, attempt }: Pick<Claim, 'id' | 'attempt'>,
  state: 'done' | 'failed' | 'cancelled',
  words: { error?: string; result?: string } = {},
): Promise<void> {
  await database().raw(
    `update runs set state = ?, error = ?, result = ?, progress = case when ? = 'done' then 1 else progress end, ended_at = now(), changed_at = now()
     where id = ? and attempt = ? and state = 'running'`,
    [state, words.error ?? null, words.result ?? null, state, id, attempt],
  )
}

/** Gives a run back in order, so that another begins it at once: a restart is no death. */
export async function releaseRun({ id, attempt }: Pick<Claim, 'id' | 'attempt'>): Promise<void> {
  await requeueRun({ id, attempt }, 'The worker was ended in order; another begins anew.', { died: false })
}

/**
 * Ends the attempt of a run and puts it back on the queue; where it was cancelled meanwhile it ends, and where too many
 * workers died over it it has failed. Nothing happens where the attempt is over already.
 */
export async function requeueRun(
  { id, attempt }: { id: string; attempt: number },
  text: string,
  { died }: { died: boolean },
): Promise<void> {
  const line = JSON.stringify([{ at: new Date().toISOString(), text }])
  const row = await one<{ kind: RunKind; state: RunState; lowPriority: boolean }>(
    database().raw(
      `update runs set deaths = deaths + ?, progress = 0, changed_at = now(), log = log || ?::jsonb,
         state = case when cancel_asked then 'cancelled' when deaths + ? >= ${MAX_DEATHS} then 'failed' else 'queued' end,
         error = case when not cancel_asked and deaths + ? >= ${MAX_DEATHS} then ? else error end,
         ended_at = case when cancel_asked or deaths + ? >= ${MAX_DEATHS} then now() end
       where id = ? and attempt = ? and state = 'running' returning kind, state, low_priority as "lowPriority"`,
      [
        ...[Number(died), line, Number(died), Number(died)],
        `Its worker died ${MAX_DEATHS} times. A smaller size may need less memory.`,
        ...[Number(died), id, attempt],
      ],
    ),
  )
  if (row?.state === 'queued') await send(row.kind, id, row)
}
