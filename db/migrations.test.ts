import { readFileSync } from 'node:fs'
import { parseDocument } from '#core/document/document'
import { editOf } from '#core/document/patches'
import { database } from '#app/server/database/database.server'
import { listDeliveries } from '#app/server/deliveries/deliveries.server'
import { openDocument } from '#app/server/documents/documents.server'
import { documentAt } from '#app/server/documents/revisions.server'
import { saveEdits } from '#app/server/documents/saves.server'
import { openProject } from '#app/server/projects/projects.server'
import { ownDatabase } from '#app/server/testing/own-database'
import { migrationSource } from './migrations'

ownDatabase('0004-beats')

type Json = Record<string, unknown>

const sample = JSON.parse(readFileSync('core/document/samples/version-1.json', 'utf8')) as Json

/** A document as a database of before holds it, with seeds as its history. */
async function insertDocument(
  project: string,
  old: Json,
  history: [kind: string, of: number | null, seed: number][],
): Promise<string> {
  const seeds = [old.seed as number, ...history.map(([, , seed]) => seed)]
  const [row] = (await database()('documents')
    .insert({
      project_id: project,
      name: 'Old',
      head: history.length,
      current: JSON.stringify({ ...old, seed: seeds.at(-1) }),
    })
    .returning('id')) as { id: string }[]
  const rows = [['start', null, 0] as const, ...history].map(([kind, of], number) => ({
    document_id: row!.id,
    number,
    kind,
    of,
    label: `${kind} ${number}`,
    patches: JSON.stringify(number ? [{ op: 'replace', path: ['seed'], value: seeds[number] }] : []),
    inverse: JSON.stringify(number ? [{ op: 'replace', path: ['seed'], value: seeds[number - 1] }] : []),
    snapshot: number ? null : JSON.stringify(old),
    edit_id: crypto.randomUUID(),
  }))
  await database()('revisions').insert(rows)
  return row!.id
}

test('a database of before goes over: documents as a revision of their own, lines of edits, deliveries’ lists', async () => {
  const [{ id: project }] = (await database()('projects').insert({ name: 'Old' }).returning('id')) as [{ id: string }]
  const id = await insertDocument(project, sample, [['edit', null, 3]])
  const undone = await insertDocument(project, parseDocument(sample), [
    ['edit', null, 1],
    ['edit', null, 2],
    ['undo', 2, 1],
    ['redo', 2, 2],
    ['undo', 2, 1],
    ['edit', null, 3],
    ['undo', 6, 1],
  ])
  const record = { packing: { title: 'P' }, width: 8, height: 4, dither: true, names: { delivery: 2 }, files: [{}, {}] }
  await database()('blobs').insert({ sha256: 'z', bytes: 5 })
  const [run] = (await database()('runs')
    .insert({ kind: 'bake', project_id: project, document_id: id, revision: 0, request: '{}' })
    .returning('id')) as { id: string }[]
  await database()('deliveries').insert({
    ...{ run_id: run!.id, project_id: project, document_id: id, revision: 0, name: 'd' },
    record: JSON.stringify(record),
    zip_sha256: 'z',
  })

  await database().migrate.latest({ migrationSource })

  const opened = await openDocument(id)
  expect(opened).toMatchObject({ head: 2, undo: [], redo: [], document: { version: 2, seed: 3 } })
  expect(opened.document.nodes.cut!.type).toBe('threshold')
  expect((await documentAt(id, 0)).nodes.cut!.type).toBe('threshold')
  expect(await documentAt(id, 1)).toEqual(opened.document)
  const next = editOf(opened.document, 'More', (d) => void (d.nodes.cut!.params = { level: 0.3 }))!
  expect(await saveEdits(id, { base: 2, edits: [next] })).toEqual({ head: 3 })
  expect((await openDocument(id)).undo.map(({ label }) => label)).toEqual(['More'])
  const { undo, redo } = await openDocument(undone)
  expect([undo, redo].map((edits) => edits.map(({ label }) => label))).toEqual([['edit 1'], ['edit 6']])
  expect((await openProject(project)).documents[0]).toMatchObject({ metres: [1, 1] })
  expect(await listDeliveries({ documentId: id })).toMatchObject([
    { packing: 'P', width: 8, height: 4, files: 2, bytes: 5, number: 2, dither: true },
  ])
})
