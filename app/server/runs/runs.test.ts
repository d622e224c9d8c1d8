import { packings } from '#core/texture/packings/packings.generated'
import { createProject, openProject } from '../projects/projects.server'
import { queue } from './queue.server'
import { enqueueBake, listRuns } from './runs.server'
import { ownDatabase } from '../testing/own-database'

ownDatabase()

test('what somebody waits for is baked before what nobody does, each in the order it was asked for', async () => {
  const project = await createProject('Order')
  const { id } = (await openProject(project)).documents[0]!
  const ask = (lowPriority: boolean) =>
    enqueueBake(id, { packing: packings[0]!, width: 64, dither: false, sharpen: 0 }, { lowPriority })
  const demo = [await ask(true), await ask(true)]
  const own = [await ask(false), await ask(false)]
  const boss = await queue()
  const taken: string[] = []
  for (let i = 0; i < 4; i++) taken.push((await boss.fetch<{ runId: string }>('bake'))[0]!.data.runId)
  expect(taken).toEqual([...own, ...demo])
  expect((await listRuns({ documentId: id })).map((run) => run.id)).toEqual([...demo, ...own].reverse())
})

test('lists come in pages: each goes on where the one before it ended', async () => {
  const { id } = (await openProject(await createProject('Pages'))).documents[0]!
  const all: string[] = []
  for (let i = 0; i < 7; i++)
    all.unshift(await enqueueBake(id, { packing: packings[0]!, width: 64, dither: false, sharpen: 0 }))
  const found: string[] = []
  for (let before: string | undefined; ;) {
    const page = await listRuns({ documentId: id, before, limit: 3 })
    if (page.length === 0) break
    expect(page.length).toBeLessThanOrEqual(3)
    found.push(...page.map((run) => run.id))
    before = page.at(-1)!.createdAt
  }
  expect(found).toEqual(all)
})
