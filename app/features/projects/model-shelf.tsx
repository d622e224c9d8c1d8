import { Box, Trash2, Upload } from 'lucide-react'
import { useRef, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { ModelCard } from '../../contracts/model'
import { MODEL_ACCEPT, sendModel } from '../../session/send-file'
import { useLoadAgain } from '../../session/use-load-again'
import { Button, IconButton } from '../../ui/button'
import { useDeleted } from '../../ui/deleted-notice'
import { useFileDrop } from '../../ui/use-file-drop'
import { agoInWords, counted } from '../../ui/words'

/** Models of a project; a file is added by choosing or dropping it. */
export function ModelShelf({
  project,
  models,
  now,
  onSend,
}: {
  project: string
  models: readonly ModelCard[]
  now: number
  onSend(fields: Record<string, string>): void
}) {
  const input = useRef<HTMLInputElement>(null)
  const navigate = useNavigate()
  const loadAgain = useLoadAgain()
  const [busy, setBusy] = useState<string | null>(null)
  const [problems, setProblems] = useState<readonly string[]>([])
  const { remove, notice } = useDeleted<ModelCard>(
    ({ id }) => onSend({ intent: 'delete-model', model: id }),
    ({ id }) => onSend({ intent: 'undelete-model', model: id }),
  )
  const bring = async (files: readonly File[]): Promise<void> => {
    setProblems([])
    let last: string | null = null
    for (const file of files) {
      setBusy(file.name)
      const sent = await sendModel(file, project)
      if (typeof sent === 'string') setProblems((before) => [...before, sent])
      else last = sent.id
    }
    setBusy(null)
    // One alone is looked at at once.
    if (files.length === 1 && last) await navigate(`/models/${last}`)
    else await loadAgain()
  }
  const { over, handlers } = useFileDrop((files) => void bring(files))
  return (
    <section aria-label="Models" className={`mt-8 rounded ${over ? 'outline-2 outline-accent' : ''}`} {...handlers}>
      <div className="mb-2 flex items-center gap-4">
        <h2 className="text-head font-semibold">Models</h2>
        <Button onClick={() => input.current?.click()} disabled={busy !== null}>
          <Upload size={14} aria-hidden /> Add a model
        </Button>
        <span role="status" className="text-ink-soft">
          {busy ? `Reading ${busy} …` : 'GLB, glTF in one file, OBJ, PLY or STL; files can be dropped here.'}
        </span>
        <input
          ref={input}
          type="file"
          multiple
          hidden
          accept={MODEL_ACCEPT}
          aria-label="Model files"
          onChange={(event) => {
            void bring([...(event.target.files ?? [])])
            event.target.value = ''
          }}
        />
      </div>
      {problems.map((problem) => (
        <p key={problem} role="alert" className="mb-2">
          ■ {problem}
        </p>
      ))}
      {notice}
      <ul aria-label="Models" className="grid grid-cols-[repeat(auto-fill,minmax(20rem,1fr))] gap-3">
        {models.map((model) => (
          <li key={model.id} className="flex gap-3 rounded border border-rule bg-panel p-2">
            <Link
              to={`/models/${model.id}`}
              aria-label={`Open ${model.name}`}
              className="grid size-20 shrink-0 grid-cols-2 grid-rows-2 overflow-hidden rounded bg-view"
            >
              {model.swatches.length === 0 ? (
                <span className="col-span-2 row-span-2 grid place-items-center text-[#1d1d1c]">
                  <Box size={24} aria-hidden />
                </span>
              ) : (
                model.swatches.map((address) => <img key={address} src={address} alt="" className="size-full" />)
              )}
            </Link>
            <div className="flex min-w-0 flex-1 flex-col">
              <Link to={`/models/${model.id}`} className="truncate font-semibold hover:underline">
                {model.name}
              </Link>
              <p className="text-ink-soft">
                {counted(model.triangles, 'triangle')}, {counted(model.parts, 'part')}
                <br />
                changed {agoInWords(model.changedAt, now)}
              </p>
              <span className="mt-auto flex justify-end">
                <IconButton icon={Trash2} word="Delete" of={model.name} onClick={() => remove(model)} />
              </span>
            </div>
          </li>
        ))}
      </ul>
    </section>
  )
}
