import { packings } from '#core/texture/packings/packings.generated'
import { database } from '../database/database.server'
import { createProject, openProject } from '../projects/projects.server'
import { queue } from './queue.server'
import { SILENCE_SECONDS, openRescuer } from './rescue.server'
import { enqueueBake, cancelRun, claimRun, findRun, releaseRun, renewRun, retryRun } from './runs.server'
import { ownDatabase } from '../testing/own-database'

ownDatabase()

let document: string
beforeAll(async () => {
  document = (await openProject(await createProject('Rescue'))).documents[0]!.id
})
const ask = () => enqueueBake(document, { packing: packings[0]!, width: 64, dither: false, sharpen: 0 })
/** Messages that wait for a run. */
const messages = async (run: string): Promise<number> => {
  const { rows } = await database().raw<{ rows: unknown[] }>(
    `select 1 from queue.job where state in ('created', 'retry') and data->>'runId' = ?`,
    [run],
  )
  return rows.length
}
/** A rescuer with a clock of its own. */
function rescuer() {
  let now = 0
  const rescue = openRescuer(() => now)
  return { rescue, pass: (seconds: number) => void (now += seconds * 1000) }
}

test('a run whose worker fell silent is given on, whatever the clock of the database says', async () => {
  const run = await ask()
  const claim = (await claimRun(run, 'a'))!
  const { rescue, pass } = rescuer()
  await rescue()
  pass(SILENCE_SECONDS - 1)
  // The clock of the database was set back by an hour since.
  await database().raw(`update runs set changed_at = now() + interval '1 hour', started_at = now() + interval '1 hour'`)
  await renewRun(claim, 0.3)
  await rescue()
  pass(SILENCE_SECONDS - 1)
  await rescue()
  expect((await findRun(run))!.state).toBe('running')
  pass(2)
  await rescue()
  expect((await findRun(run))!.state).toBe('queued')
  expect(await messages(run)).toBeGreaterThan(0)
  // The one that was thought dead learns of it.
  expect(await renewRun(claim, 0.5)).toBe('lost')
})

test('three dead workers fail a run; trying again counts anew; restarts in order never count', async () => {
  const run = await ask()
  const { rescue, pass } = rescuer()
  const die = async (): Promise<string> => {
    await claimRun(run, 'a')
    await rescue()
    pass(SILENCE_SECONDS + 1)
    await rescue()
    return (await findRun(run))!.state
  }
  expect([await die(), await die(), await die()]).toEqual(['queued', 'queued', 'failed'])
  await retryRun(run)
  expect([await die(), await die()]).toEqual(['queued', 'queued'])
  for (let i = 0; i < 5; i++) await releaseRun((await claimRun(run, 'a'))!)
  expect((await findRun(run))!).toMatchObject({ state: 'queued', error: null })
  expect(await die()).toBe('failed')
})

test('a cancelled run whose worker died ends', async () => {
  const run = await ask()
  await claimRun(run, 'a')
  await cancelRun(run)
  const { rescue, pass } = rescuer()
  await rescue()
  pass(SILENCE_SECONDS + 1)
  await rescue()
  const found = (await findRun(run))!
  expect([found.state, found.endedAt === null]).toEqual(['cancelled', false])
})

test('a run whose message was lost is sent again although another one runs', async () => {
  const busy = await ask()
  const claim = (await claimRun(busy, 'a'))!
  const run = await ask()
  await database().raw(`delete from queue.job where data->>'runId' = ?`, [run])
  const { rescue, pass } = rescuer()
  await rescue()
  pass(31)
  await renewRun(claim, 0.5)
  expect(await messages(run)).toBe(0)
  await rescue()
  expect(await messages(run)).toBe(1)
  pass(31)
  await renewRun(claim, 0.6)
  await rescue()
  expect(await messages(run)).toBe(1)
  await queue()
})
