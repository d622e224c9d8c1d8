import type { PlacedFile } from '../../session/dropped-files'
import { isImage } from '../../session/send-file'

export interface FilesOfSet {
  readonly name: string
  readonly files: readonly File[]
}

/** Files as sets: those of one folder are one; others than images are left out. A folder of the whole is called by its name, loose files by what their names begin with. */
export function setsOfFiles(placed: readonly PlacedFile[]): FilesOfSet[] {
  const byFolder = new Map<string, { folder: string | undefined; files: File[] }>()
  for (const { folders, file } of placed) {
    if (!isImage(file)) continue
    const key = folders.join('/')
    const found = byFolder.get(key) ?? { folder: folders.at(-1), files: [] }
    byFolder.set(key, found)
    found.files.push(file)
  }
  return [...byFolder.values()].map(({ folder, files }) => {
    const sorted = [...files].sort((a, b) => (a.name < b.name ? -1 : 1))
    return { name: folder ?? startOf(sorted.map(({ name }) => name)), files: sorted }
  })
}

/** What all names begin with, without what joins it to the rest. */
function startOf(names: readonly string[]): string {
  const [first = '', ...rest] = names.map((name) => name.replace(/\.[^.]*$/, ''))
  let length = first.length
  for (const name of rest) while (!name.startsWith(first.slice(0, length))) length--
  const whole = rest.length === 0 ? first.replace(/[-_ .][^-_ .]*$/, '') : first.slice(0, length)
  return whole.replace(/[^\p{L}\p{N}]+$/u, '') || 'Maps'
}
