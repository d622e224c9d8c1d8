import { readFileSync } from 'node:fs'
import { closeDatabase, isDatabaseAway, waitForDatabase } from './app/server/database/database.server'
import { closeQueue } from './app/server/runs/queue.server'
import { startWorker } from './app/server/runs/worker.server'
import { endOnUncaught } from './runtime/node/uncaught'

/** One more worker: takes bakes from the queue of DATABASE_URL. Any number may run, on any machines. */
endOnUncaught('worker', isDatabaseAway)
const { version } = JSON.parse(readFileSync(new URL('./package.json', import.meta.url), 'utf8')) as { version: string }
const threads = process.env.THREADS ? Number(process.env.THREADS) : undefined

/** After so many milliseconds it ends without order; whatever it had is taken over. */
const GRACE = 2500

let worker: Awaited<ReturnType<typeof startWorker>> | null = null
let closing = false
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => {
    if (closing) process.exit(130)
    closing = true
    setTimeout(() => process.exit(0), GRACE).unref()
    void Promise.resolve(worker?.close())
      .then(closeQueue)
      .then(closeDatabase)
      .catch((error: unknown) => console.error('worker:', (error as Error).message))
      .then(() => process.exit(0))
  })

while (!closing && !worker)
  try {
    await waitForDatabase((text) => console.error(`worker: ${text}`))
    worker = await startWorker(`amber-grist ${version}`, threads)
  } catch (error) {
    // It went away again, or is not prepared yet.
    console.error(`worker: ${(error as Error).message}`)
    await new Promise((resolve) => setTimeout(resolve, 1000))
  }
