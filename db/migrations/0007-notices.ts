import type { Knex } from 'knex'

/** Who listens is told of every run that changed and every document that moved on, once its transaction is committed. */
export const name = '0007-notices'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    create function tell_document() returns trigger language plpgsql as $$
      begin perform pg_notify('documents', new.id || ' ' || new.head); return null; end $$;
    create trigger tell after update of head on documents for each row
      when (old.head is distinct from new.head) execute function tell_document();

    create function tell_run() returns trigger language plpgsql as $$
      begin perform pg_notify('runs', ''); return null; end $$;
    create trigger tell_new after insert on runs for each row execute function tell_run();
    create trigger tell after update of changed_at on runs for each row
      when (old.changed_at is distinct from new.changed_at) execute function tell_run();
  `)
}
