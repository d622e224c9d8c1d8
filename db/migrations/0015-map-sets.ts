import type { Knex } from 'knex'

/** Existing sets of maps that are converted; materials that only stand for one are not listed among a project's. */
export const name = '0015-map-sets'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table documents add column listed boolean not null default true;

    create table map_sets (
      id uuid primary key default gen_random_uuid(),
      project_id uuid not null references projects on delete cascade,
      name text not null,
      -- How wide the surface is, in metres.
      width_metres double precision not null default 1,
      files jsonb not null,
      -- The material that was last made of it.
      document_id uuid references documents on delete set null,
      created_at timestamptz not null default now(),
      -- When its roles or its width changed last.
      changed_at timestamptz not null default now(),
      deleted_at timestamptz
    );
    create index on map_sets (project_id, created_at);
    create index on map_sets (document_id);
  `)
}
