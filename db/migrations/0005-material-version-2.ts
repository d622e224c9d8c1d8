import type { Knex } from 'knex'
import { parseDocument } from '#core/document/document'

/**
 * Documents of version 1 go over to the format of today (version 2 when this was written) as a revision of its own. Patches before it speak of version 1, so undo
 * begins anew there; older revisions can still be looked at and returned to, as snapshots are upgraded when they are read.
 */
export const name = '0005-material-version-2'

const PAGE = 100

interface Row {
  id: string
  head: number
  current: Record<string, unknown>
}

export async function up(knex: Knex): Promise<void> {
  for (let after = '00000000-0000-0000-0000-000000000000'; ;) {
    const rows = (await knex('documents')
      .where('id', '>', after)
      .orderBy('id')
      .limit(PAGE)
      .select('id', 'head', 'current')) as Row[]
    for (const { id, head, current } of rows) {
      if (current.version !== 1) continue
      // With its defaults, as every saved document has them.
      const snapshot = JSON.stringify(parseDocument(current))
      await knex('revisions').insert({
        document_id: id,
        number: head + 1,
        kind: 'start',
        label: 'Upgraded to version 2',
        patches: '[]',
        inverse: '[]',
        snapshot,
        edit_id: crypto.randomUUID(),
      })
      await knex('documents')
        .where({ id })
        .update({ head: head + 1, current: snapshot })
    }
    if (rows.length < PAGE) return
    after = rows.at(-1)!.id
  }
}
