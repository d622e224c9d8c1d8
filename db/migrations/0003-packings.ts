import type { Knex } from 'knex'

/** Own packings count their changes, so that two tabs do not overwrite each other. */
export const name = '0003-packings'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table packings
      add column revision integer not null default 1,
      add column changed_at timestamptz not null default now();
  `)
}
