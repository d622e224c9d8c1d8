import { Download, Trash2, Upload } from 'lucide-react'
import { useRef, useState } from 'react'
import { Button, IconButton, buttonClasses } from '../../ui/button'
import { useFileDrop } from '../../ui/use-file-drop'
import { counted } from '../../ui/words'
import { MODEL_ACCEPT, sendMesh } from '../../session/send-file'
import type { MeshSummary } from '../../contracts/model'
import { useLoadAgain } from '../../session/use-load-again'
import { useModel } from './model-context'

type Role = 'low' | 'high' | 'cage'

const ROLES: readonly { role: Role; title: string; about: string }[] = [
  { role: 'low', title: 'Model', about: 'What is baked onto, and delivered.' },
  {
    role: 'high',
    title: 'High twin',
    about: 'What is baked from; parts are matched by name, whatever “_low” or “_high” they end with.',
  },
  {
    role: 'cage',
    title: 'Cage',
    about: 'The model, grown: rays to the high twin begin there instead of at a distance.',
  },
]

/** The files that a model is made of. A file that takes the place of another leaves settings and materials as they are. */
export function ModelFiles() {
  const { model } = useModel()
  const loadAgain = useLoadAgain()
  const [told, setTold] = useState<string | null>(null)
  const bring = async (role: Role, file: File): Promise<void> => {
    setTold(`Reading ${file.name} …`)
    const problem = await sendMesh(file, model.id, role)
    setTold(problem === null ? `● ${file.name} came in.` : `■ ${problem}`)
    await loadAgain()
  }
  const of = (role: Role): { name: string; summary: MeshSummary } | null =>
    role === 'low' ? { name: model.fileName, summary: model.summary } : model[role]
  return (
    <div className="grid gap-3 p-3">
      <p role="status" className={told?.startsWith('■') ? '' : 'text-ink-soft'}>
        {told ?? 'GLB, glTF in one file, OBJ, PLY or STL; files can be dropped on a row.'}
      </p>
      {ROLES.map(({ role, title, about }) => (
        <FileRow
          key={role}
          role={role}
          title={title}
          about={about}
          file={of(role)}
          onFile={(file) => void bring(role, file)}
        />
      ))}
      <p>
        <a href={`/models/${model.id}/file`} download className={buttonClasses('plain')}>
          <Download size={14} aria-hidden /> Download the model as GLB
        </a>
      </p>
    </div>
  )
}

function FileRow({
  role,
  title,
  about,
  file,
  onFile,
}: {
  role: Role
  title: string
  about: string
  file: { name: string; summary: MeshSummary } | null
  onFile(file: File): void
}) {
  const { send } = useModel()
  const input = useRef<HTMLInputElement>(null)
  const { over, handlers } = useFileDrop(([first]) => first && onFile(first))
  return (
    <div
      {...handlers}
      className={`flex items-center gap-3 rounded border border-rule bg-panel px-3 py-2 ${over ? 'outline-2 outline-accent' : ''}`}
    >
      <span className="w-20 shrink-0 font-semibold">{title}</span>
      <span className="min-w-0 flex-1">
        <span className="block truncate">
          {file
            ? `${file.name}: ${counted(file.summary.triangles, 'triangle')} in ${counted(file.summary.parts.length, 'part')}`
            : 'None'}
        </span>
        <span className="block text-note text-ink-soft">{about}</span>
      </span>
      <Button onClick={() => input.current?.click()} aria-label={`${file ? 'Replace' : 'Choose'} the file: ${title}`}>
        <Upload size={14} aria-hidden /> {file ? 'Replace' : 'Choose'}
      </Button>
      {role !== 'low' && file && (
        <IconButton icon={Trash2} word="Take away" of={title} onClick={() => send({ intent: 'remove', role })} />
      )}
      <input
        ref={input}
        type="file"
        hidden
        accept={MODEL_ACCEPT}
        aria-label={`File: ${title}`}
        onChange={(event) => {
          const [chosen] = event.target.files ?? []
          if (chosen) onFile(chosen)
          event.target.value = ''
        }}
      />
    </div>
  )
}
