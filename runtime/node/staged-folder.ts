import { mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs'
import { basename, dirname, join, resolve } from 'node:path'
import { GristError } from '#core/errors'
import { guarded } from './files'
import { livesOn, processMark } from './own-folders'

/** A folder under way. */
export interface StagedFolder {
  /** Where it is written. */
  readonly path: string
  /** Puts it in its place. Gives the name under which what was there is kept, if anything was. */
  commit(): string | null
  discard(): void
}

/**
 * A folder that appears whole or not at all: written beside its place and moved there by `commit`. What is there already is
 * never mixed with it: a folder that is not empty is refused, or with `replace` kept beside it under another name.
 * Throws file-invalid.
 */
export function stagedFolder(place: string, { replace = false }: { replace?: boolean } = {}): StagedFolder {
  const path = resolve(place)
  checkFreeFolder(place, replace)
  const staging = `${path}.part-${processMark()}`
  guarded(place, () => {
    makeFolder(dirname(path))
    removeDeadStages(path)
    mkdirSync(staging)
  })
  return {
    path: staging,
    commit: () =>
      guarded(place, () => {
        checkFreeFolder(place, replace)
        const backup = isFilled(path) ? freeName(path) : null
        if (backup) renameSync(path, backup)
        try {
          renameSync(staging, path)
        } catch (error) {
          if (backup) renameSync(backup, path)
          throw error
        }
        return backup
      }),
    discard: () => rmSync(staging, { recursive: true, force: true }),
  }
}

/** Throws file-invalid where a folder cannot be put. */
export function checkFreeFolder(place: string, replace: boolean): void {
  const path = resolve(place)
  const found = guarded(place, () => statSync(path, { throwIfNoEntry: false }))
  if (found && !found.isDirectory())
    throw new GristError('file-invalid', 'Expected a folder but this is a file.', { file: place })
  if (!replace && isFilled(path))
    throw new GristError(
      'file-invalid',
      'This folder is not empty, and two deliveries must not be mixed. Name another one, or add --replace to keep what is there under another name.',
      { file: place },
    )
}

const isFilled = (path: string): boolean =>
  statSync(path, { throwIfNoEntry: false })?.isDirectory() === true && readdirSync(path).length > 0

function freeName(path: string): string {
  for (let n = 1; ; n++) if (!statSync(`${path}.backup-${n}`, { throwIfNoEntry: false })) return `${path}.backup-${n}`
}

/** Makes a folder and those above it, one by one: Node's own way never ends where the system refuses, as in /proc. */
function makeFolder(path: string): void {
  const missing: string[] = []
  for (let at = path; !statSync(at, { throwIfNoEntry: false }); at = dirname(at)) missing.unshift(at)
  for (const folder of missing) mkdirSync(folder)
}

/** Removes what processes left beside the place that were ended while they wrote. */
function removeDeadStages(path: string): void {
  const prefix = `${basename(path)}.part-`
  for (const name of readdirSync(dirname(path)))
    if (name.startsWith(prefix) && /^\d+-\d+$/.test(name.slice(prefix.length)) && !livesOn(name.slice(prefix.length)))
      rmSync(join(dirname(path), name), { recursive: true, force: true })
}
