import { fileURLToPath } from 'node:url'
import { Piscina } from 'piscina'

/** Threads that run the default export of `runtime/node/<entry>.ts`. */
export const openPool = (
  entry: string,
  threads: number,
  options: Partial<ConstructorParameters<typeof Piscina>[0]> = {},
): Piscina =>
  new Piscina({
    filename: fileURLToPath(new URL(`./${entry}.ts`, import.meta.url)),
    minThreads: options.idleTimeout === undefined ? threads : 0,
    maxThreads: threads,
    execArgv: ['--import', import.meta.resolve('tsx')],
    ...options,
  })
