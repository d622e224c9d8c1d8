import { useState } from 'react'

/** Makes an element take dropped files: `over` is true while some are held over it. */
export function useFileDrop(onFiles: (files: readonly File[], event: React.DragEvent) => void) {
  const [over, setOver] = useState(false)
  return {
    over,
    handlers: {
      onDragOver: (event: React.DragEvent) => {
        event.preventDefault()
        setOver(true)
      },
      onDragLeave: () => setOver(false),
      onDrop: (event: React.DragEvent) => {
        event.preventDefault()
        setOver(false)
        const files = [...event.dataTransfer.files]
        if (files.length > 0) onFiles(files, event)
      },
    },
  }
}
