import type { Knex } from 'knex'

/**
 * A worker that is alive raises the beat of its run; who watches times it by a clock of their own, as the database's may be
 * set back. Deaths count workers that fell silent, apart from attempts, which only grow. Workers tell that they are there.
 */
export const name = '0004-beats'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table runs
      add column beat integer not null default 0,
      add column deaths integer not null default 0,
      drop column lease_until;
    create table workers (
      name text primary key,
      heard_at timestamptz not null default now()
    );
  `)
}
