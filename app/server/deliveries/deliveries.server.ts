import type { FindingWords } from '#core/checks/check'
import type { Delivery } from '../../contracts/delivery'
import type { OwnSettings } from '#core/document/own-settings'
import type { MapTime } from '#core/texture/kept-file'
import type { DeliveryRecord } from '#core/texture/record'
import { blobResponse } from '../storage/blobs.server'
import { database, one } from '../database/database.server'
import { Problem } from '../http/problem.server'
import type { BakeClaim } from '../runs/runs.server'
import { enqueue } from '../runs/runs.server'

const SELECT = `
  select v.id, v.document_id as "documentId", d.name as document, v.revision, v.name,
    v.listed->>'packing' as packing, (v.listed->>'width')::int as width, (v.listed->>'height')::int as height,
    jsonb_array_length(v.listed->'forms') as files, b.bytes::float as bytes, v.created_at as "createdAt",
    (v.listed->>'number')::int as number, v.listed->'forms' as forms, (v.listed->>'dither')::boolean as dither,
    coalesce(v.listed->'times', '[]') as times, v.listed->'findings' as findings
  from deliveries v join documents d on d.id = v.document_id join blobs b on b.sha256 = v.zip_sha256`

/** What lists show of a record, beside it: the record holds the whole document. */
const listedOf = ({ packing, width, height, names, dither, files }: DeliveryRecord) => ({
  packing: packing.title,
  width,
  height,
  number: names.delivery ?? null,
  dither,
  forms: files,
})

/** Deliveries of a project or of one document, newest first. */
export async function listDeliveries(of: { projectId: string } | { documentId: string }): Promise<Delivery[]> {
  const [column, id] = 'projectId' in of ? ['v.project_id', of.projectId] : ['v.document_id', of.documentId]
  const { rows } = await database().raw<{ rows: Delivery[] }>(
    `${SELECT} where ${column} = ? order by v.created_at desc limit 200`,
    [id],
  )
  return rows
}

/** The newest delivery of each of these documents, with those that were asked for together with it. */
export async function latestDeliveries(documents: readonly string[]): Promise<Delivery[]> {
  const { rows } = await database().raw<{ rows: Delivery[] }>(
    `with newest as (
       select distinct on (v.document_id) v.id, v.document_id, r.request->>'together' as together
       from deliveries v join runs r on r.id = v.run_id
       where v.document_id = any(?::uuid[]) order by v.document_id, v.created_at desc)
     ${SELECT} join newest n on n.document_id = v.document_id join runs r on r.id = v.run_id
     where v.id = n.id or r.request->>'together' = n.together order by v.created_at desc`,
    [[...documents]],
  )
  return rows
}

/** Keeps a delivery and ends its run, both or neither; false where another worker has the run now. */
export async function saveDelivery(
  claim: BakeClaim,
  name: string,
  record: DeliveryRecord,
  zipSha256: string,
  beside: {
    readonly times?: readonly MapTime[]
    readonly own?: OwnSettings
    readonly findings?: readonly FindingWords[]
  } = {},
): Promise<boolean> {
  return database().transaction(async (transaction) => {
    const ended = await transaction.raw<{ rows: unknown[] }>(
      `update runs set state = 'done', progress = 1, ended_at = now(), changed_at = now()
       where id = ? and attempt = ? and state = 'running' and not cancel_asked returning id`,
      [claim.id, claim.attempt],
    )
    if (ended.rows.length === 0) return false
    await transaction('deliveries').insert({
      run_id: claim.id,
      project_id: claim.projectId,
      document_id: claim.documentId,
      revision: claim.revision,
      name,
      record: JSON.stringify(record),
      listed: JSON.stringify({ ...listedOf(record), ...beside }),
      zip_sha256: zipSha256,
    })
    return true
  })
}

interface Kept {
  name: string
  record: DeliveryRecord
  zip_sha256: string
  document_id: string
  revision: number
  /** What was another way than in the material. */
  own: OwnSettings | null
}

export async function findDelivery(id: string): Promise<Kept> {
  const row = await one<Kept>(
    database().raw(
      `select name, record, zip_sha256, document_id, revision, listed->'own' as own from deliveries where id = ?`,
      [id],
    ),
  )
  if (!row) throw new Problem(404, 'There is no such delivery. It may have been deleted.')
  return row
}

/** The ZIP, whole or a range of it, so that a download that broke off goes on. */
export async function zipResponse(request: Request, id: string): Promise<Response> {
  const { name, record, zip_sha256: sha256 } = await findDelivery(id)
  // The number tells one delivery of a material from the next also in a folder of downloads.
  const { delivery } = record.names ?? {}
  const title = delivery === undefined ? name : `${name} ${delivery}`
  return blobResponse(request, sha256, {
    'Content-Type': 'application/zip',
    'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(title)}.zip`,
  })
}

/** Makes a delivery again from its revision, to be compared file by file. */
export async function repeatDelivery(id: string): Promise<string> {
  const { record, document_id: documentId, revision, own } = await findDelivery(id)
  return enqueue('bake', documentId, revision, {
    packing: record.packing,
    width: record.width,
    dither: record.dither,
    sharpen: record.sharpen,
    names: record.names,
    ...(own ? { own } : {}),
    compareWith: id,
  })
}
