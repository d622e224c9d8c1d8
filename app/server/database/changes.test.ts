import { addDocument, emptyMaterial } from '../projects/materials.server'
import { createProject } from '../projects/projects.server'
import { editOf } from '#core/document/patches'
import { saveEdits } from '../documents/saves.server'
import { cancelRun, claimRun } from '../runs/runs.server'
import { ownDatabase } from '../testing/own-database'
import { listenToChanges } from './changes.server'
import { database } from './database.server'

ownDatabase()

const until = async (is: () => boolean | Promise<boolean>): Promise<void> => {
  for (let waited = 0; !(await is()); waited += 20) {
    if (waited > 10_000) throw new Error('nothing was heard')
    await new Promise((resolve) => setTimeout(resolve, 20))
  }
}

test('changes are heard once they are committed, by anybody, also after the connection broke', async () => {
  const heard = { heads: [] as string[], runs: 0, listening: 0 }
  const stop = listenToChanges({
    onDocument: (id, head) => heard.heads.push(`${id} ${head}`),
    onRuns: () => heard.runs++,
    onListening: () => heard.listening++,
  })
  try {
    await until(() => heard.listening === 1)
    const project = await createProject('Heard')
    // A new material asks for its picture: a run.
    const id = await addDocument(project, emptyMaterial('Material 2'))
    await until(() => heard.runs > 0)
    const save = (head: number) =>
      saveEdits(id, {
        base: head,
        edits: [editOf({ ...emptyMaterial('x'), seed: head }, 'Seed', (draft) => void (draft.seed = head + 1))!],
      })
    await save(0)
    await until(() => heard.heads.includes(`${id} 1`))
    // What is not committed is not told.
    await database()
      .transaction(async (transaction) => {
        await transaction('documents').where({ id }).update({ head: 99 })
        throw new Error('no')
      })
      .catch(() => {})
    await database().raw(`select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen %'`)
    await until(() => heard.listening === 2)
    await save(1)
    await until(() => heard.heads.includes(`${id} 2`))
    expect(heard.heads).toEqual([`${id} 1`, `${id} 2`])
  } finally {
    stop()
  }
  // Whoever stopped holds no connection.
  await until(async () => {
    const { rows } = await database().raw<{ rows: unknown[] }>(
      `select 1 from pg_stat_activity where query like 'listen %' and pid <> pg_backend_pid()`,
    )
    return rows.length === 0
  })
})

test('who is at work on a run is told at once that it is cancelled; of one that waits nobody needs to be', async () => {
  const cancelled: string[] = []
  let listening = false
  const stop = listenToChanges({ onCancel: (id) => cancelled.push(id), onListening: () => (listening = true) })
  try {
    await until(() => listening)
    const project = await createProject('Cancelled')
    await addDocument(project, emptyMaterial('Material 2'))
    await addDocument(project, emptyMaterial('Material 3'))
    const runs = (await database()('runs').where({ project_id: project, state: 'queued' }).select('id')) as {
      id: string
    }[]
    const [working, waiting] = runs as [{ id: string }, { id: string }]
    await claimRun(working.id, 'a worker')
    await cancelRun(waiting.id)
    await cancelRun(working.id)
    await until(() => cancelled.length > 0)
    // Asked once more it is told once all the same.
    await cancelRun(working.id)
    await database().raw(`select pg_notify('cancels', 'end')`)
    await until(() => cancelled.includes('end'))
    expect(cancelled).toEqual([working.id, 'end'])
  } finally {
    stop()
  }
})
