import { existsSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

/** The program's own folder: the nearest above this file with a package.json, bundled or not. */
export function programFolder(): string {
  let folder = dirname(fileURLToPath(import.meta.url))
  while (!existsSync(join(folder, 'package.json'))) folder = dirname(folder)
  return folder
}

/** Name and version, as records tell them. */
export function applicationName(): string {
  const { version } = JSON.parse(readFileSync(join(programFolder(), 'package.json'), 'utf8')) as { version: string }
  return `amber-grist ${version}`
}
