import type { Knex } from 'knex'

/** Images are deleted like materials: they can be brought back for a while. */
export const name = '0009-deleted-images'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`alter table assets add column deleted_at timestamptz`)
}
