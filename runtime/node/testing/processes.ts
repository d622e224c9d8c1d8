import { readFileSync } from 'node:fs'

/** Whether a process is there and no zombie. */
export function isChildAlive(pid: number): boolean {
  try {
    return !/^State:\s+Z/m.test(readFileSync(`/proc/${pid}/status`, 'utf8'))
  } catch {
    return false
  }
}
