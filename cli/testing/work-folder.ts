import { execFile } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

/** A folder to run commands in. */
export function workFolder() {
  const folder = mkdtempSync(join(tmpdir(), 'grist-'))
  const at = (name: string) => join(folder, name)
  return {
    folder,
    at,
    /** Runs the command as a user would, from another folder. */
    grist: (...words: string[]): Promise<{ code: number; out: string; err: string }> =>
      new Promise((resolve) => {
        const child = execFile(
          join(process.cwd(), 'bin/grist'),
          words,
          { cwd: folder, maxBuffer: 1 << 26 },
          (_, out, err) => resolve({ code: child.exitCode ?? -1, out, err }),
        )
      }),
    write(name: string, json: unknown): string {
      writeFileSync(at(name), typeof json === 'string' ? json : JSON.stringify(json))
      return name
    },
  }
}

/** A material’s file, with what a test is about on top. */
export const materialFile = (more: Record<string, unknown>) => ({
  format: 'amber-grist/material',
  version: 2,
  name: 'Wall',
  domain: { kind: 'tile', metres: [1, 1] },
  ...more,
})
