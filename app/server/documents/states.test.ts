import { v4 as uuid } from 'uuid'
import { editOf, patched } from '#core/document/patches'
import { openDocument } from './documents.server'
import { documentAt } from './revisions.server'
import { saveEdits } from './saves.server'
import { Problem } from '../http/problem.server'
import { addDocument, emptyMaterial, renameDocument, setDocumentDeleted } from '../projects/materials.server'
import { createProject } from '../projects/projects.server'
import { listStates, nameState, stateSchema } from './states.server'
import { ownDatabase } from '../testing/own-database'

ownDatabase()

async function documentWithEdits(count: number): Promise<string> {
  const id = await addDocument(await createProject('Project'), emptyMaterial('Wall'))
  for (let n = 0; n < count; n += 100) {
    let { document } = await openDocument(id)
    const edits = Array.from({ length: Math.min(100, count - n) }, (_, i) => {
      const edit = editOf(document, `Edit ${n + i + 1}`, (draft) => void (draft.seed = n + i + 1))!
      document = { ...document, seed: n + i + 1 }
      return edit
    })
    await saveEdits(id, { base: n, edits })
  }
  return id
}
const statusOf = (work: Promise<unknown>): Promise<number> =>
  work.then(
    () => 200,
    (error: unknown) => (error instanceof Problem ? error.status : 500),
  )

it('lists the newest revisions first, with what led to them', async () => {
  const id = await documentWithEdits(3)
  const states = await listStates(id)
  expect(states.map(({ revision, label, name }) => [revision, label, name])).toEqual([
    [3, 'Edit 3', null],
    [2, 'Edit 2', null],
    [1, 'Edit 1', null],
    [0, 'Start', null],
  ])
})

it('says whether an edit, an undo or a redo led to a state', async () => {
  const id = await documentWithEdits(1)
  const { undo } = await openDocument(id)
  const [edit] = undo
  await saveEdits(id, {
    base: 1,
    edits: [{ ...edit!, id: uuid(), kind: 'undo', of: edit!.id, patches: edit!.inverse, inverse: edit!.patches }],
  })
  expect((await listStates(id)).map(({ kind, label }) => [kind, label])).toEqual([
    ['undo', 'Edit 1'],
    ['edit', 'Edit 1'],
    ['start', 'Start'],
  ])
})

it('renaming a material is an edit that its undo takes back, whoever saves meanwhile', async () => {
  const id = await documentWithEdits(1)
  const { document } = await openDocument(id)
  const other = editOf(document, 'Other', (draft) => void (draft.seed = 5))!
  await Promise.all([renameDocument(id, 'Quay wall'), saveEdits(id, { base: 1, edits: [other] }).catch(() => null)])
  const opened = await openDocument(id)
  expect(opened.name).toBe('Quay wall')
  expect(opened.undo.map(({ label }) => label)).toContain('Rename the material')
  const { head } = opened
  await renameDocument(id, 'Quay wall')
  expect((await openDocument(id)).head).toBe(head)
})

it('does not list where nodes were moved to, which is saved and no step of undo', async () => {
  const id = await documentWithEdits(1)
  const { document } = await openDocument(id)
  const added = editOf(document, 'Add', (draft) => void (draft.nodes.n = { type: 'noise', at: [0, 0] }))!
  const next = patched(document, added.patches)
  const moved = editOf(next, 'Arrange nodes', (draft) => void (draft.nodes.n!.at = [5, 6]))!
  await saveEdits(id, { base: 1, edits: [added, { ...moved, kind: 'arrange' }] })
  expect((await listStates(id)).map(({ label }) => label)).toEqual(['Add', 'Edit 1', 'Start'])
  const opened = await openDocument(id)
  expect(opened.document.nodes.n!.at).toEqual([5, 6])
  expect(opened.undo.map(({ label }) => label)).toEqual(['Edit 1', 'Add'])
  // Only where nodes stand may go that way.
  const seed = editOf(opened.document, 'Seed', (draft) => void (draft.seed = 9))!
  expect(await statusOf(saveEdits(id, { base: 3, edits: [{ ...seed, kind: 'arrange' }] }))).toBe(422)
})

it('keeps a named state in the list however many revisions follow, and its document to return to', async () => {
  const id = await documentWithEdits(3)
  await nameState(id, { revision: 2, name: 'Before moss' })
  for (let round = 0; round < 2; round++) {
    let { document } = await openDocument(id)
    const base = (await openDocument(id)).head
    const edits = Array.from({ length: 60 }, (_, i) => {
      const edit = editOf(document, 'More', (draft) => void (draft.seed = 1000 + round * 100 + i))!
      document = { ...document, seed: 1000 + round * 100 + i }
      return edit
    })
    await saveEdits(id, { base, edits })
  }
  const states = await listStates(id)
  expect(states).toHaveLength(41)
  expect(states.at(-1)).toMatchObject({ revision: 2, name: 'Before moss' })
  expect((await documentAt(id, 2)).seed).toBe(2)
})

it('renames, and takes a name away', async () => {
  const id = await documentWithEdits(1)
  await nameState(id, { revision: 1, name: 'One' })
  await nameState(id, { revision: 1, name: 'First' })
  expect((await listStates(id))[0]!.name).toBe('First')
  await nameState(id, { revision: 1, name: null })
  expect((await listStates(id))[0]!.name).toBeNull()
})

it('refuses revisions and documents that are not there, and names that are none', async () => {
  const id = await documentWithEdits(1)
  expect(await statusOf(nameState(id, { revision: 7, name: 'x' }))).toBe(404)
  await setDocumentDeleted(id, true)
  expect(await statusOf(nameState(id, { revision: 1, name: 'x' }))).toBe(404)
  expect(await statusOf(listStates(id))).toBe(404)
  for (const bad of [
    { revision: -1, name: 'x' },
    { revision: 1, name: '  ' },
    { revision: 1 },
    { revision: 1.5, name: 'x' },
  ])
    expect(stateSchema.safeParse(bad).success).toBe(false)
})
