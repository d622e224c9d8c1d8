import type { Knex } from 'knex'

/** Who listens is told at once of a run that is to be cancelled while it is at work. */
export const name = '0016-cancels'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create function tell_cancel() returns trigger language plpgsql as $$
      begin perform pg_notify('cancels', new.id::text); return null; end $$;
    create trigger tell_cancel after update of cancel_asked on runs for each row
      when (new.cancel_asked and not old.cancel_asked and new.state = 'running') execute function tell_cancel();
  `)
}
