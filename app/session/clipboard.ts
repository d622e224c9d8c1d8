/** Text for the clipboard, from a menu; says why where the browser does not let pages write it. */
export async function writeClipboard(text: string | null, notify: (notice: string) => void): Promise<void> {
  if (text === null) return
  try {
    await navigator.clipboard.writeText(text)
  } catch {
    notify('The browser does not let pages copy from a menu; Ctrl C does.')
  }
}

/** Hands on what is on the clipboard, for a menu; says why where the browser does not let pages read it. */
export async function readClipboard(paste: (text: string) => boolean, notify: (notice: string) => void): Promise<void> {
  try {
    if (!paste(await navigator.clipboard.readText())) notify('There is no part of a material on the clipboard.')
  } catch {
    notify('The browser does not let pages read what was copied; Ctrl V does.')
  }
}
