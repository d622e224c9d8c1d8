import type { Knex } from 'knex'

/**
 * Saves and lists read little. A document is a snapshot and the patches after it: `current` goes, a summary for lists stays.
 * What can be undone is a line of edits: each names the edit below it, and the document knows the top of what can be undone
 * and the tip of what can be redone. Deliveries keep what lists show beside the record.
 */
export const name = '0006-lines'

export async function up(knex: Knex): Promise<void> {
  await knex.raw(`
    alter table documents
      add column summary jsonb,
      add column undo_top integer not null default 0,
      add column tip integer not null default 0;
    update documents set summary = jsonb_build_object(
      'metres', current->'domain'->'metres',
      'layers', jsonb_array_length(current->'layers'),
      'nodes', (select count(*) from jsonb_object_keys(current->'nodes')));
    alter table documents drop column current, alter column summary set not null;

    alter table revisions add column below integer;
    create index on revisions (document_id, below) where below is not null;

    alter table deliveries add column listed jsonb;
    update deliveries set listed = jsonb_build_object(
      'packing', record->'packing'->'title', 'width', record->'width', 'height', record->'height',
      'number', record->'names'->'delivery', 'dither', record->'dither', 'forms', record->'files');
    alter table deliveries alter column listed set not null;

    create index on runs (document_id);
    create index on runs (state) where state in ('queued', 'running');
    create index on deliveries (document_id);
    create index on deliveries (zip_sha256);
    create index on assets (raster_sha256);
  `)
  const documents = (await knex('documents').select('id')) as { id: string }[]
  for (const { id } of documents) await lineUp(knex, id)
}

interface Row {
  number: number
  kind: 'start' | 'edit' | 'undo' | 'redo'
  of: number | null
}

/** Goes through a document's history once and notes the line that it leads to. */
async function lineUp(knex: Knex, id: string): Promise<void> {
  const rows = (await knex('revisions')
    .where({ document_id: id })
    .orderBy('number')
    .select('number', 'kind', 'of')) as Row[]
  const below = new Map<number, number>()
  let top = 0
  let tip = 0
  for (const { number, kind, of } of rows) {
    if (kind === 'edit') below.set(number, top)
    if (kind === 'edit' || kind === 'start') top = tip = number
    else top = kind === 'undo' ? (below.get(of!) ?? top) : of!
  }
  await knex.raw(
    `update revisions r set below = v.below from unnest(?::int[], ?::int[]) as v (number, below)
     where r.document_id = ? and r.number = v.number`,
    [[...below.keys()], [...below.values()], id],
  )
  await knex('documents').where({ id }).update({ undo_top: top, tip })
}
