import { metresOf, onPart } from '#core/document/domain'
import type { OpenDocument } from '../../contracts/document'
import type { Knex } from 'knex'
import type { MaterialDocument } from '#core/document/document'
import { followedNames } from '#core/document/edits/shared-values'
import type { Edit } from '#core/document/patches'
import { database } from '../database/database.server'
import { Problem } from '../http/problem.server'
import type { Line } from './line.server'
import { stacksAt } from './line.server'
import type { RevisionRow } from './revisions.server'
import { editFrom, newestOf } from './revisions.server'

/** What lists show of a document. */
export interface DocumentSummary {
  /** Whether it is for tiles or for parts; absent in those of before there were parts. */
  readonly over?: 'tile' | 'part'
  readonly metres: readonly [number, number]
  readonly layers: number
  readonly nodes: number
  /** Names of the project's values that its dials follow. */
  readonly shared: readonly string[]
}

export const summaryOf = ({ domain, layers, nodes, dials }: MaterialDocument): DocumentSummary => ({
  over: domain.kind,
  metres: metresOf({ domain }),
  layers: layers.length,
  nodes: Object.keys(nodes).length,
  shared: followedNames({ dials }),
})

export async function createDocument(
  transaction: Knex.Transaction,
  projectId: string,
  given: MaterialDocument,
): Promise<string> {
  // What is known of a part is the project's: it is put in anew whenever the material is evaluated.
  const document = onPart(given, null)
  const [row] = (await transaction('documents')
    .insert({ project_id: projectId, name: document.name, summary: JSON.stringify(summaryOf(document)) })
    .returning('id')) as { id: string }[]
  await transaction('revisions').insert({
    document_id: row!.id,
    number: 0,
    kind: 'start',
    label: 'Start',
    patches: '[]',
    inverse: '[]',
    snapshot: JSON.stringify(document),
    edit_id: crypto.randomUUID(),
  })
  await noteImages(transaction, row!.id, document)
  return row!.id
}

/** A document at its newest revision, with what can be undone and redone. Throws a Problem 404. */
export async function openDocument(id: string): Promise<OpenDocument> {
  const row = await database()('documents')
    .where({ id, deleted_at: null })
    .first<({ project_id: string; name: string; head: number } & Line) | undefined>(
      'project_id',
      'name',
      'head',
      { undoTop: 'undo_top' },
      'tip',
    )
  if (!row) throw new Problem(404, 'There is no such document. It may have been deleted.')
  const { document } = await newestOf(database(), id, row.head)
  const stacks = await stacksAt(database(), id, row)
  return { id, projectId: row.project_id, name: row.name, head: row.head, document, ...stacks }
}

/** Edits that one answer holds at most. */
const PAGE = 500

/** Edits after revision `since`, with the id of what an undo or redo is about; `hasMore` where there are later ones. */
export async function editsSince(
  id: string,
  since: number,
): Promise<{ head: number; edits: Edit[]; hasMore: boolean }> {
  const row = await database()('documents').where({ id, deleted_at: null }).first<{ head: number } | undefined>('head')
  if (!row) throw new Problem(404, 'There is no such document. It may have been deleted.')
  const { rows } = await database().raw<{ rows: (RevisionRow & { of_id: string | null })[] }>(
    `select r.number, r.kind, r.label, r.patches, r.inverse, r.edit_id, o.edit_id as of_id from revisions r
     left join revisions o on o.document_id = r.document_id and o.number = r.of
     where r.document_id = ? and r.number > ? order by r.number limit ?`,
    [id, since, PAGE],
  )
  return {
    head: rows.at(-1)?.number ?? row.head,
    hasMore: rows.length === PAGE,
    edits: rows.map((revision) => ({ ...editFrom(revision), ...(revision.of_id ? { of: revision.of_id } : {}) })),
  }
}

/** Hashes of the images that some JSON names. */
export const imagesNamedIn = (json: unknown): string[] => [
  ...new Set([...JSON.stringify(json).matchAll(/"sha256:([0-9a-f]{64})"/g)].map(([, sha256]) => sha256!)),
]

/** Notes which images of the library a document, or patches for it, name. Throws a Problem 422 for an unknown one. */
export async function noteImages(transaction: Knex.Transaction, id: string, json: unknown): Promise<void> {
  const named = imagesNamedIn(json)
  if (named.length === 0) return
  const found = (await transaction('assets').whereIn('sha256', named).select('sha256')) as { sha256: string }[]
  const missing = named.find((sha256) => !found.some((one) => one.sha256 === sha256))
  if (missing) throw new Problem(422, `The image sha256:${missing} is not in the library. Import it first.`)
  await transaction('asset_uses')
    .insert(named.map((sha256) => ({ sha256, document_id: id })))
    .onConflict(['sha256', 'document_id'])
    .ignore()
}
