/** Hands a file over to the browser to be saved. */
export function saveFile(name: string, content: BlobPart, type: string): void {
  const address = URL.createObjectURL(new Blob([content], { type }))
  const link = document.createElement('a')
  link.href = address
  link.download = name
  link.click()
  // Not before the browser has begun to read it.
  setTimeout(() => URL.revokeObjectURL(address), 60_000)
}
