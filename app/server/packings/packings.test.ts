import { packings as shipped } from '#core/texture/packings/packings.generated'
import { deletePacking, savePacking, packingsOf } from './packings.server'
import { Problem } from '../http/problem.server'
import { createProject, duplicateProject } from '../projects/projects.server'
import { ownDatabase } from '../testing/own-database'

ownDatabase()

const own = {
  format: 'amber-grist/packing',
  version: 1,
  name: 'rough-alone',
  title: 'Roughness alone',
  summary: '',
  files: [{ map: 'rough', slots: [{ channel: 'roughness' }], transfer: 'raw', format: 'png', bits: 8 }],
}
const status = async (work: Promise<unknown>): Promise<unknown> =>
  work.then(
    () => 200,
    (error: unknown) => (error instanceof Problem ? error.status : (error as { code: string }).code),
  )

test('own packings are kept by project, change by change; who goes by an old one is told', async () => {
  const [project, other] = [await createProject('A'), await createProject('B')]
  const first = await savePacking(project, { packing: own, base: null })
  expect(first.revision).toBe(1)
  expect((await packingsOf(project)).map(({ packing: { name }, revision }) => [name, revision])).toEqual([
    ...shipped.map(({ name }) => [name, null]),
    ['rough-alone', 1],
  ])
  expect(await packingsOf(other)).toHaveLength(shipped.length)
  // Two at once from the same revision: one of them is refused.
  const two = ['One', 'Two'].map((title) => status(savePacking(project, { packing: { ...own, title }, base: 1 })))
  expect((await Promise.all(two)).sort()).toEqual([200, 409])
  expect(await status(savePacking(project, { packing: own, base: null }))).toBe(409)
  expect(await status(savePacking(project, { packing: { ...own, name: shipped[0]!.name }, base: null }))).toBe(409)
  expect(await status(savePacking(project, { packing: { ...own, files: [{ map: 'a/b' }] }, base: 2 }))).toBe(
    'packing-invalid',
  )
  await deletePacking(project, 'rough-alone')
  expect(await packingsOf(project)).toHaveLength(shipped.length)
  expect(await status(savePacking(project, { packing: own, base: 2 }))).toBe(409)
})

test('a copy of a project has its packings, as its own', async () => {
  const project = await createProject('C')
  await savePacking(project, { packing: own, base: null })
  await savePacking(project, { packing: { ...own, title: 'Changed' }, base: 1 })
  const copy = await duplicateProject(project)
  expect((await packingsOf(copy)).at(-1)).toMatchObject({ packing: { ...own, title: 'Changed' }, revision: 1 })
  await deletePacking(project, 'rough-alone')
  expect(await packingsOf(copy)).toHaveLength(shipped.length + 1)
})
