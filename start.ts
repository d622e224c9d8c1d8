import { spawnSync } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { waitForDatabase } from './app/server/database/database.server'
import type { Supervised, Service } from './runtime/node/supervise'
import { supervise } from './runtime/node/supervise'

/**
 * Keeps the database, the server and one worker alive until it is told to end; bin/start runs it. Settings come by
 * environment: DATABASE_URL, CLUSTER (the folder of the database that is ours; empty for one that is not), PORT, HOST,
 * RUNNING (a file that tells who runs here), DEMO (no for none).
 */
const here = (path: string): string => fileURLToPath(new URL(path, import.meta.url))
const { CLUSTER, RUNNING, PORT, HOST, DEMO } = process.env
const tsx = import.meta.resolve('tsx')

/** Milliseconds that things may take to end in order: server and worker, then the database. */
const GRACE = { work: 3000, database: 1500 }

const say = (text: string): void => console.error(`${new Date().toISOString().slice(11, 19)} ${text}`)
const node = (name: string, file: string): Service => ({
  name,
  // Ends with this process, also where this process is killed.
  command: ['setpriv', '--pdeathsig', 'TERM', process.execPath, '--import', tsx, here(file)],
  env: process.env,
  stop: 'SIGTERM',
})

const services: { work: Supervised[]; database: Supervised | null } = { work: [], database: null }
let ending = false
async function end(code: number): Promise<void> {
  if (ending) return
  ending = true
  await Promise.all(services.work.map((one) => one.end(GRACE.work)))
  await services.database?.end(GRACE.database)
  process.exit(code)
}
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => void end(0))
process.on('uncaughtException', (error) => {
  console.error(error)
  void end(1)
})

if (RUNNING) writeFileSync(RUNNING, `process ${process.pid}, http://${HOST}:${PORT}/\n`)
if (CLUSTER)
  services.database = supervise(
    { name: 'database', command: [here('bin/lib/cluster'), 'run', CLUSTER], env: process.env, stop: 'SIGINT' },
    say,
  )
await waitForDatabase(say)
if (!ending) {
  const args = ['--import', tsx, here('db/prepare.ts'), ...(DEMO === 'no' ? ['--no-demo'] : [])]
  const prepared = spawnSync(process.execPath, args, { stdio: 'inherit' })
  if (prepared.status !== 0) {
    say('The database could not be brought up to date.')
    await end(1)
  } else services.work.push(supervise(node('server', 'server.ts'), say), supervise(node('worker', 'worker.ts'), say))
}
