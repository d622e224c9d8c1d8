import type { Knex } from 'knex'

/** Materials on IDs of a part, beside the one on all of it (slot 0, no IDs); and which parts of a model share their files. */
export const name = '0019-file-sets'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table part_materials add column slot integer not null default 0;
    alter table part_materials add column ids jsonb;
    alter table part_materials add constraint part_materials_ids check ((slot = 0) = (ids is null));
    alter table part_materials drop constraint part_materials_pkey;
    alter table part_materials add primary key (model_id, part, slot);
    alter table models add column joins jsonb not null default '{}';
  `)
}
