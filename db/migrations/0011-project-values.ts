import type { Knex } from 'knex'

/** Colours and numbers of a project, by name, that dials of its materials follow. */
export const name = '0011-project-values'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create table project_values (
      project_id uuid not null references projects on delete cascade,
      name text not null,
      value jsonb not null,
      primary key (project_id, name)
    )`)
}
