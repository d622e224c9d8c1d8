import { fileURLToPath } from 'node:url'
import { Piscina } from 'piscina'

/**
 * Threads that run the default export of `runtime/node/<entry>.ts`. The address is resolved by the package's own
 * imports, so that it holds in the bundled server too. A thread that fails rejects its task; the process goes on.
 */
export function openPool(
  entry: string,
  threads: number,
  options: Partial<ConstructorParameters<typeof Piscina>[0]> = {},
): Piscina {
  const pool = new Piscina({
    filename: fileURLToPath(import.meta.resolve(`#runtime/node/${entry}`)),
    minThreads: options.idleTimeout === undefined ? threads : 0,
    maxThreads: threads,
    execArgv: ['--import', import.meta.resolve('tsx'), '--disable-warning=THREE_CJS_DEPRECATED'],
    ...options,
  })
  pool.on('error', (error: Error) => console.error(`${entry}:`, error.message))
  return pool
}
