import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { Piscina } from 'piscina'
import { programFolder } from './program'

/** Where a thread's entry is: as bundled for a bundled program, which needs no compiler; else its source. */
function entryFile(entry: string): { filename: string; execArgv: string[] } {
  const [bundled, source] = [`build/node/${entry}.mjs`, `runtime/node/${entry}.ts`].map((path) =>
    join(programFolder(), path),
  ) as [string, string]
  const isBundled = !import.meta.url.endsWith('.ts') && existsSync(bundled)
  return isBundled
    ? { filename: bundled, execArgv: [] }
    : { filename: source, execArgv: ['--import', import.meta.resolve('tsx')] }
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
