import { database } from './database.server'
import { sweep } from '../assets/assets.server'

/** Deleted projects, materials and images can be brought back for so long. */
export const KEPT_DAYS = 30
/** Runs of pictures that have ended are of no use to anybody after a day. */
const PICTURE_RUN_HOURS = 24

/**
 * Removes for good what was deleted long ago, runs of pictures that have ended, and bytes that nothing names any more.
 * Returns how many of each.
 */
export async function purge(
  days = KEPT_DAYS,
): Promise<{ projects: number; documents: number; images: number; runs: number; blobs: number }> {
  const gone = async (sql: string): Promise<number> => (await database().raw<{ rowCount: number }>(sql)).rowCount
  const old = (column: string): string => `${column} < now() - interval '${Number(days)} days'`
  // What belongs to them goes with them: revisions, runs, deliveries, pictures, packings, models.
  const projects = await gone(`delete from projects where ${old('deleted_at')}`)
  const documents = await gone(`delete from documents where ${old('deleted_at')}`)
  await gone(`delete from models where ${old('deleted_at')}`)
  await gone(`delete from map_sets where ${old('deleted_at')}`)
  // Layouts that no model has any more, and files that were replaced.
  await gone(
    `delete from meshes m where created_at < now() - interval '1 day' and not exists
       (select 1 from models o where m.sha256 in (o.original_sha256, o.mesh_sha256, o.high_sha256, o.cage_sha256))`,
  )
  const runs = await gone(
    `delete from runs where kind = 'picture' and ended_at < now() - interval '${PICTURE_RUN_HOURS} hours'`,
  )
  const images = await gone(
    `delete from assets a where ${old('deleted_at')} and not exists (select 1 from asset_uses u where u.sha256 = a.sha256)
       and not exists (select 1 from map_sets s, jsonb_array_elements(s.files) f where f->>'sha256' = a.sha256)`,
  )
  return { projects, documents, images, runs, blobs: await sweep() }
}
