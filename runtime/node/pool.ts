import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { Piscina } from 'piscina'
import { programFolder } from './program'

/** Whether this program was built, or is to run as one that was: what its threads run is built too then (bin/lib/bundle). */
const isBuilt = !import.meta.url.endsWith('.ts') || process.env.NODE_ENV === 'production'

/** Where a thread's entry is: as bundled for a program that was built, which starts three times as fast; else its source. */
function entryFile(entry: string): { filename: string; execArgv: string[] } {
  const path = (file: string): string => join(programFolder(), file)
  if (!isBuilt)
    return { filename: path(`runtime/node/${entry}.ts`), execArgv: ['--import', import.meta.resolve('tsx')] }
  const filename = path(`build/node/${entry}.mjs`)
  if (!existsSync(filename)) throw new Error(`${filename} is missing. Build it by bin/lib/bundle.`)
  return { filename, execArgv: [] }
}

/**
 * Threads that run the default export of `runtime/node/<entry>.ts`. A thread that fails rejects its task; the process goes
 * on.
 */
export function openPool(
  entry: string,
  threads: number,
  options: Partial<ConstructorParameters<typeof Piscina>[0]> = {},
): Piscina {
  const { filename, execArgv } = entryFile(entry)
  const pool = new Piscina({
    filename,
    minThreads: options.idleTimeout === undefined ? threads : 0,
    maxThreads: threads,
    execArgv: [...execArgv, '--disable-warning=THREE_CJS_DEPRECATED'],
    ...options,
  })
  pool.on('error', (error: Error) => console.error(`${entry}:`, error.message))
  return pool
}
