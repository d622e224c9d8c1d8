import { readFileSync } from 'node:fs'
import { closeDatabase } from './app/server/database.server'
import { closeQueue } from './app/server/queue.server'
import { startWorker } from './app/server/worker.server'

/** One more worker: takes bakes from the queue of DATABASE_URL. Any number may run, on any machines. */
const { version } = JSON.parse(readFileSync(new URL('./package.json', import.meta.url), 'utf8')) as { version: string }
const threads = process.env.THREADS ? Number(process.env.THREADS) : undefined
const worker = await startWorker(`amber-grist ${version}`, threads)

let closing = false
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    if (closing) process.exit(130)
    closing = true
    void worker
      .close()
      .then(closeQueue)
      .then(closeDatabase)
      .then(() => process.exit(0))
  })
