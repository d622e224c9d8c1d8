import type { Knex } from 'knex'

/** Material documents by name. */
export const name = '0001-materials'

export async function up(knex: Knex): Promise<void> {
  await knex.schema.createTable('materials', (table) => {
    table.text('name').primary()
    table.jsonb('document').notNullable()
    table.text('sha256').notNullable()
    table.timestamp('loaded_at').notNullable().defaultTo(knex.fn.now())
  })
}
