import type { Knex } from 'knex'

/** Runs that nobody waits for say so, and one that lets another go before it keeps its place behind all that somebody does. */
export const name = '0017-low-priority'

export async function up(knex: Knex): Promise<void> {
  await knex.raw('alter table runs add low_priority boolean not null default false')
}
