import { parseDocument } from '#core/document/document'
import { openDocument } from '../documents/documents.server'
import type { Problem } from '../http/problem.server'
import { ownDatabase } from '../testing/own-database'
import { addDocument, emptyMaterial } from './materials.server'
import { createProject, duplicateProject } from './projects.server'
import { deleteValue, setValue, valueSchema, valuesOf } from './values.server'

ownDatabase()

const following = (shared: string | undefined, kind: 'colour' | 'number', value: string | number) =>
  parseDocument({
    ...emptyMaterial('Wall'),
    dials: [{ id: 'd', label: 'D', kind, default: value, value, drives: [], ...(shared ? { shared } : {}) }],
  })

test('a value that is changed goes into every material that follows it, and into no other', async () => {
  const project = await createProject('Lock')
  const other = await createProject('Other')
  await setValue(project, { name: 'Lime', value: '#ffffff' })
  const [a, b, free, elsewhere] = [
    await addDocument(project, following('Lime', 'colour', '#ffffff')),
    await addDocument(project, following('Lime', 'colour', '#eeeeee')),
    await addDocument(project, following(undefined, 'colour', '#ffffff')),
    await addDocument(other, following('Lime', 'colour', '#ffffff')),
  ]
  expect(await valuesOf(project)).toEqual([{ name: 'Lime', value: '#ffffff', followers: 2 }])
  await setValue(project, { name: 'Lime', value: '#e8e0d0' })
  const valueOf = async (id: string) => (await openDocument(id)).document.dials[0]!.value
  expect(await Promise.all([a, b, free, elsewhere].map(valueOf))).toEqual(['#e8e0d0', '#e8e0d0', '#ffffff', '#ffffff'])
  // An edit like any other: it can be taken back there.
  const opened = await openDocument(a)
  expect(opened.head).toBe(1)
  // Setting the same changes nothing.
  await setValue(project, { name: 'Lime', value: '#e8e0d0' })
  expect((await openDocument(a)).head).toBe(1)
})

test('a value keeps its kind; it goes with a copy of the project; deleted, dials keep what they have', async () => {
  const project = await createProject('Kinds')
  await setValue(project, { name: 'Depth', value: 0.02 })
  const refused = await setValue(project, { name: 'Depth', value: '#000000' }).catch((error: unknown) => error)
  expect((refused as Problem).status).toBe(409)
  const id = await addDocument(project, following('Depth', 'number', 0.02))
  const copy = await duplicateProject(project)
  expect(await valuesOf(copy)).toEqual([{ name: 'Depth', value: 0.02, followers: 1 }])
  expect(await deleteValue(project, 'Depth')).toEqual([])
  expect((await openDocument(id)).document.dials[0]!.value).toBe(0.02)
  expect(valueSchema.safeParse({ name: ' ', value: 1 }).success).toBe(false)
  expect(valueSchema.safeParse({ name: 'a', value: 'red' }).success).toBe(false)
})
