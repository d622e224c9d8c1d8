import type { Knex } from 'knex'

/** Names of revisions: a state is a revision that somebody gave a name. */
export const name = '0002-states'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table states (
      document_id uuid not null,
      revision integer not null,
      name text not null,
      created_at timestamptz not null default now(),
      primary key (document_id, revision),
      foreign key (document_id, revision) references revisions (document_id, number) on delete cascade
    );
  `)
}
