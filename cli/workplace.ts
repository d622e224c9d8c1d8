import { readFileSync } from 'node:fs'
import { GristError } from '#core/errors'
import type { EngineHost } from '#core/engine/evaluate'
import type { MaterialDocument } from '#core/graph/document'
import { parseDocument } from '#core/graph/document'
import { LIMITS } from '#core/limits'
import type { FolderAssets } from '#runtime/node/assets'
import { folderOf, readJson } from '#runtime/node/files'
import { openThreads, usualThreads } from '#runtime/node/threads'
import type { Options } from './options'

export const APPLICATION = `amber-grist ${
  (JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as { version: string }).version
}`

/** A document with the folder its images lie in. */
export function openDocument(path: string | undefined): { document: MaterialDocument; folder: string } {
  if (path === undefined) throw new GristError('usage', 'Which document?')
  const json = readJson(path, LIMITS.document.bytes)
  try {
    return { document: parseDocument(json), folder: folderOf(path) }
  } catch (error) {
    throw error instanceof GristError ? error.at({ file: path }) : error
  }
}

/** Runs `work` with threads and images at hand, and ends the threads whatever happens. */
export async function withHost<T>(
  options: Options,
  assets: FolderAssets,
  work: (host: EngineHost) => Promise<T>,
): Promise<T> {
  const threads = openThreads(options.whole('threads', usualThreads()))
  try {
    return await work({ executor: threads, loadImage: (request) => assets.load(request, threads.allocate) })
  } finally {
    await threads.close()
  }
}

let interrupted = false
/** Ends the work in order when the user interrupts it: half-written files go away. A second time ends at once. */
export function watchInterrupts(): void {
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.on(signal, () => {
      if (interrupted) process.exit(130)
      interrupted = true
    })
}
export const isInterrupted = (): boolean => interrupted

/** Most memory for fields, in bytes: --memory in MB, else 3 GB. */
export const budgetOf = (options: Options): number => options.whole('memory', 3072) * 1048576

/** A bar on stderr where that is a terminal. */
export function progressBar(options: Options, what: string): (share: number) => void {
  if (options.flag('quiet') || !process.stderr.isTTY) return () => {}
  const started = Date.now()
  let shown = ''
  return (share) => {
    const left = share > 0.02 ? Math.ceil(((Date.now() - started) * (1 - share)) / share / 1000) : null
    const line = share >= 1 ? '' : `${what} ${Math.round(share * 100)} %${left === null ? '' : `, ${left} s left`}`
    if (line === shown) return
    shown = line
    process.stderr.write(`\r\x1b[K${line}`)
  }
}
