import type { Knex } from 'knex'

/** Where nodes stand in the graph is saved as revisions of its own kind, which undo and states pass by. */
export const name = '0008-arrangements'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table revisions drop constraint revisions_kind_check;
    alter table revisions add constraint revisions_kind_check
      check (kind in ('start', 'edit', 'undo', 'redo', 'arrange'));
  `)
}
