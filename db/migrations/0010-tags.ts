import type { Knex } from 'knex'

/** Words by which materials are found among many. */
export const name = '0010-tags'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`alter table documents add column tags text[] not null default '{}'`)
}
