import { database, one } from '../database/database.server'

/** How often a worker says that it is there, in milliseconds. */
export const HERE_EVERY = 5000
/** Silence after which people are told that bakes wait. */
export const SILENT_SECONDS = 20

/** Says that a worker is there. */
export async function sayHere(name: string): Promise<void> {
  await database().raw(`insert into workers (name) values (?) on conflict (name) do update set heard_at = now()`, [
    name,
  ])
}

/** Takes a worker off the list; also those that have long been silent. */
export async function sayGone(name: string): Promise<void> {
  await database().raw(`delete from workers where name = ? or heard_at < now() - interval '1 day'`, [name])
}

/** Seconds since any worker was heard of; null where none ever was. A clock that was set back counts as just now. */
export async function secondsSinceWorker(): Promise<number | null> {
  const row = await one<{ seconds: number | null }>(
    database().raw('select greatest(0, extract(epoch from now() - max(heard_at)))::float as seconds from workers'),
  )
  return row?.seconds ?? null
}
