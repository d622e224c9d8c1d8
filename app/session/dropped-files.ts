/** A file with the folders it lay in, from the outermost. */
export interface PlacedFile {
  readonly folders: readonly string[]
  readonly file: File
}

/** Files that were dropped, those in folders too. To be called in the event: what was dropped is gone after it. */
export function droppedFiles({ items }: DataTransfer): Promise<PlacedFile[]> {
  const entries = [...items].flatMap((item) => item.webkitGetAsEntry() ?? [])
  return Promise.all(entries.map((entry) => filesIn(entry, []))).then((found) => found.flat())
}

async function filesIn(entry: FileSystemEntry, folders: readonly string[]): Promise<PlacedFile[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))
    return [{ folders, file }]
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  const inside: FileSystemEntry[] = []
  // A reader gives a hundred at a time, then none.
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (some.length === 0) break
    inside.push(...some)
  }
  return (await Promise.all(inside.map((one) => filesIn(one, [...folders, entry.name])))).flat()
}

/** Files that were chosen in a dialog, with their folders where a folder was chosen. */
export const chosenFiles = (list: FileList | null): PlacedFile[] =>
  [...(list ?? [])].map((file) => ({ folders: file.webkitRelativePath.split('/').slice(0, -1), file }))

/** Files on their way from the page on which they were dropped to Convert. */
let handed: readonly PlacedFile[] = []

export const handFiles = (files: readonly PlacedFile[]): void => void (handed = files)

/** The files, once. */
export function takeHandedFiles(): readonly PlacedFile[] {
  const files = handed
  handed = []
  return files
}
