import type { Knex } from 'knex'

/** How many metres apart 0 and 1 of the heights of a set of maps are, where its files do not hold metres themselves. */
export const name = '0018-set-heights'

export async function up(knex: Knex): Promise<void> {
  await knex.raw('alter table map_sets add height_metres double precision not null default 0.02')
}
