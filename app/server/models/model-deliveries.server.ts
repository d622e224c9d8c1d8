import type { ModelDelivery } from '../../contracts/model'
import { database, one } from '../database/database.server'
import { Problem } from '../http/problem.server'
import { blobResponse } from '../storage/blobs.server'

/** What was delivered of a model, newest first. */
export async function listModelDeliveries(model: string): Promise<ModelDelivery[]> {
  const { rows } = await database().raw<{ rows: ModelDelivery[] }>(
    `select v.id, v.name, v.record->>'packing' as packing, (v.record->>'width')::int as width,
       jsonb_array_length(coalesce(v.record->'sets', v.record->'parts')) as sets, b.bytes::float as bytes, v.created_at as "createdAt"
     from model_deliveries v join blobs b on b.sha256 = v.zip_sha256 where v.model_id = ? order by v.created_at desc limit 50`,
    [model],
  )
  return rows
}

/** How often a model was delivered. */
export async function countModelDeliveries(model: string): Promise<number> {
  const [row] = await database()('model_deliveries').where({ model_id: model }).count<{ count: string }[]>()
  return Number(row!.count)
}

/** The ZIP, whole or a range of it, so that a download that broke off goes on. */
export async function modelZip(request: Request, id: string): Promise<Response> {
  const row = await one<{ name: string; zip_sha256: string }>(
    database().raw('select name, zip_sha256 from model_deliveries where id = ?', [id]),
  )
  if (!row) throw new Problem(404, 'There is no such delivery. It may have been deleted.')
  return blobResponse(request, row.zip_sha256, {
    'Content-Type': 'application/zip',
    'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(row.name)}.zip`,
  })
}
