import type { Knex } from 'knex'

/** Which material lies on which part of a model, at most one on each; and what was delivered of a model, all its parts together. */
export const name = '0014-part-materials'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table part_materials (
      model_id uuid not null references models on delete cascade,
      part integer not null,
      document_id uuid not null references documents on delete cascade,
      assigned_at timestamptz not null default now(),
      primary key (model_id, part)
    );
    create index on part_materials (document_id);

    create table model_deliveries (
      id uuid primary key default gen_random_uuid(),
      run_id uuid not null unique references runs on delete cascade,
      model_id uuid not null references models on delete cascade,
      name text not null,
      record jsonb not null,
      zip_sha256 text not null references blobs,
      created_at timestamptz not null default now()
    );
    create index on model_deliveries (model_id, created_at);
    create index on model_deliveries (zip_sha256);
  `)
}
