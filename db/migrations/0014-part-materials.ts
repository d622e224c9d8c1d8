import type { Knex } from 'knex'

/** Which material lies on which part of a model: at most one on each. */
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
  `)
}
