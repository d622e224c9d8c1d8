import { database } from './database.server'
import { openDocument } from '../documents/documents.server'
import { checkQuota, usedBytes } from '../storage/blobs.server'
import { Problem } from '../http/problem.server'
import { addDocument, emptyMaterial, setDocumentDeleted } from '../projects/materials.server'
import { createProject, deleteProject, undeleteProject } from '../projects/projects.server'
import { purge } from './purge.server'
import { ownDatabase } from '../testing/own-database'

ownDatabase()

const count = async (table: string): Promise<number> =>
  Number((await database()(table).count<{ count: string }[]>('*'))[0]!.count)

test('what was deleted can be brought back for thirty days, and is gone for good after; the rest stays', async () => {
  const [kept, deleted] = [await createProject('Kept'), await createProject('Deleted')]
  const material = await addDocument(kept, emptyMaterial('Material 2'))
  await deleteProject(deleted)
  await setDocumentDeleted(material, true)
  expect(await purge()).toMatchObject({ projects: 0, documents: 0 })
  await undeleteProject(deleted)
  await deleteProject(deleted)
  await database().raw(`update projects set deleted_at = deleted_at - interval '31 days'`)
  await database().raw(`update documents set deleted_at = deleted_at - interval '31 days'`)
  expect(await purge()).toMatchObject({ projects: 1, documents: 1 })
  expect([await count('projects'), await count('documents')]).toEqual([1, 1])
  await expect(openDocument(material)).rejects.toThrow(Problem)
})

test('runs of pictures that ended a day ago go, others stay', async () => {
  await database().raw(`update runs set state = 'done', ended_at = now()`)
  const before = await count('runs')
  expect(before).toBeGreaterThan(0)
  expect((await purge()).runs).toBe(0)
  await database().raw(`update runs set ended_at = now() - interval '25 hours'`)
  await database().raw(`update runs set kind = 'bake' where id = (select id from runs limit 1)`)
  expect((await purge()).runs).toBe(before - 1)
})

test('the quota is told in words before anything is written beyond it', async () => {
  const { used, quota } = await usedBytes()
  await checkQuota(database(), quota - used)
  const error = await checkQuota(database(), quota - used + 1).catch((e: unknown) => e)
  expect(error).toMatchObject({ status: 507, message: expect.stringContaining('of at most 200.00 GB') })
})
