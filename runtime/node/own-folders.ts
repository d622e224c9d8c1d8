import { readFileSync } from 'node:fs'
import { mkdtemp, readdir, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/**
 * Names a process in files and folders that are only its own: its number and when it began, as a number alone may be
 * another's later. Source: proc(5), field 22 of /proc/PID/stat.
 */
export const processMark = (): string => `${process.pid}-${beganAt(process.pid) ?? 0}`

/** Whether the process of a mark still lives. */
export function livesOn(mark: string): boolean {
  const match = /^(\d+)-(\d+)$/.exec(mark)
  return match !== null && beganAt(Number(match[1])) === match[2]
}

/** Clock ticks since boot at which a process began; null where there is none. */
function beganAt(pid: number): string | null {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8')
    // The second field is a name in brackets that may hold anything.
    return stat.slice(stat.lastIndexOf(')') + 2).split(' ')[19] ?? null
  } catch {
    return null
  }
}

const PREFIX = 'grist-run-'

/** A fresh folder for work that this process does. */
export const ownFolder = (): Promise<string> => mkdtemp(join(tmpdir(), `${PREFIX}${processMark()}-`))

/** Removes the folders of processes that have died. */
export async function removeDeadFolders(): Promise<void> {
  for (const name of await readdir(tmpdir())) {
    const mark = name.startsWith(PREFIX) ? /^\d+-\d+(?=-)/.exec(name.slice(PREFIX.length)) : null
    if (mark && !livesOn(mark[0])) await rm(join(tmpdir(), name), { recursive: true, force: true })
  }
}
