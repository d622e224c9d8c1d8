import { Upload } from 'lucide-react'
import { useRef, useState } from 'react'
import { Button } from '../../ui/button'
import { counted } from '../../ui/words'
import { sendMaterials } from '../../session/send-file'
import { useLoadAgain } from '../../session/use-load-again'

/** Imports materials from a file that was exported, here or on another machine. */
export function ImportMaterials({ project }: { project: string }) {
  const input = useRef<HTMLInputElement>(null)
  const loadAgain = useLoadAgain()
  const [told, setTold] = useState<string | null>(null)
  const bring = async (file: File): Promise<void> => {
    setTold(`Reading ${file.name} …`)
    const sent = await sendMaterials(file, project)
    setTold(typeof sent === 'string' ? `■ ${sent}` : `● ${counted(sent.documents.length, 'material')} came in.`)
    await loadAgain()
  }
  return (
    <>
      {told && <span role="status">{told}</span>}
      <Button onClick={() => input.current?.click()}>
        <Upload size={14} aria-hidden /> Import
      </Button>
      <input
        ref={input}
        type="file"
        hidden
        accept=".zip"
        aria-label="File of materials"
        onChange={(event) => {
          const [file] = event.target.files ?? []
          if (file) void bring(file)
          event.target.value = ''
        }}
      />
    </>
  )
}
