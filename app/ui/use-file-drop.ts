import { useState } from 'react'

/** Makes an element take a dropped file: `over` is true while one is held over it. */
export function useFileDrop(onFile: (file: File, event: React.DragEvent) => void) {
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
        const file = event.dataTransfer.files[0]
        if (file) onFile(file, event)
      },
    },
  }
}
