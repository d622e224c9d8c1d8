import { Copy, Download, Pencil, Plus, Replace, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { Link, useNavigate, useSubmit } from 'react-router'
import { useSends } from '../../session/use-sends'
import type { ShelfImage } from '../../contracts/asset'
import type { ModelCard } from '../../contracts/model'
import type { Delivery } from '../../contracts/delivery'
import type { ProjectPage } from '../../contracts/project'
import type { ProjectValue } from '../../contracts/project-value'
import type { Run } from '../../contracts/run'
import type { StartCard } from '../../contracts/start'
import { Button, IconButton, buttonClasses } from '../../ui/button'
import { useDeleted } from '../../ui/deleted-notice'
import { NameDialog } from '../../ui/name-dialog'
import { agoInWords, counted } from '../../ui/words'
import { droppedFiles, handFiles } from '../../session/dropped-files'
import { RunRows } from '../../session/runs/run-rows'
import { DeliveryTable } from '../../session/runs/delivery-table'
import { useNow, useRuns } from '../../session/runs/use-runs'
import { ImageShelf } from './image-shelf'
import { ImportMaterials } from './import-materials'
import { MakeMaps } from './make-maps'
import { ModelShelf } from './model-shelf'
import { NewDialog } from './new-dialog'
import { ProjectValues } from './project-values'
import { Tags, useMaterialSearch } from './tags'

interface ProjectViewProps {
  readonly project: ProjectPage
  readonly deliveries: readonly Delivery[]
  readonly runs: readonly Run[]
  readonly assets: readonly ShelfImage[]
  readonly starts: readonly StartCard[]
  readonly packings: readonly { readonly name: string; readonly title: string }[]
  readonly values: readonly ProjectValue[]
  readonly models: readonly ModelCard[]
  readonly now: number
}

/** One project: its materials, what is being baked, what was delivered, and the images it may use. */
export function ProjectView({
  project,
  deliveries,
  runs: loaded,
  assets,
  starts,
  packings,
  values,
  models,
  now: loadedAt,
}: ProjectViewProps) {
  const { send, data } = useSends<Record<string, string>, { problem?: string }>('form')
  // What leads to another page is a navigation: a reload in between would take a fetcher's redirect away.
  const submit = useSubmit()
  const navigate = useNavigate()
  const runs = useRuns(loaded, `project:${project.id}`)
  const busy = runs.filter(({ state }) => state === 'running' || state === 'queued')
  const ended = runs.filter((run) => !busy.includes(run) && (run.state !== 'done' || run.result))
  const now = useNow(loadedAt, busy.length > 0)
  const { bar, shown, none } = useMaterialSearch(project.documents)
  const [naming, setNaming] = useState(false)
  const [renaming, setRenaming] = useState<ProjectPage['documents'][number] | null>(null)
  const { remove, notice } = useDeleted<ProjectPage['documents'][number]>(
    ({ id }) => send({ intent: 'delete-document', document: id }),
    ({ id }) => send({ intent: 'undelete-document', document: id }),
  )
  // A folder of maps is a set to be converted, wherever on the page it is dropped.
  const takeFolders = (event: React.DragEvent): void => {
    if (![...event.dataTransfer.items].some((item) => item.webkitGetAsEntry()?.isDirectory)) return
    event.preventDefault()
    event.stopPropagation()
    void droppedFiles(event.dataTransfer).then((files) => {
      handFiles(files)
      void navigate(`/projects/${project.id}/convert`)
    })
  }
  return (
    <div
      className="mx-auto min-h-full max-w-[84rem] p-6"
      onDragOver={(event) => event.preventDefault()}
      onDropCapture={takeFolders}
    >
      <div className="flex items-baseline gap-4">
        <h1 className="text-lg font-semibold">{project.name}</h1>
        <span className="flex-1" />
        <Link to={`/projects/${project.id}/convert`} className={buttonClasses('plain')}>
          <Replace size={14} aria-hidden /> Convert maps
        </Link>
        <ImportMaterials project={project.id} />
        {project.documents.length > 0 && <MakeMaps documents={shown} packings={packings} onMake={send} />}
        {project.documents.length > 0 && (
          <a href={`/projects/${project.id}/materials.zip`} download className={buttonClasses('plain')}>
            <Download size={14} aria-hidden /> Export
          </a>
        )}
        <Button onClick={() => setNaming(true)}>
          <Plus size={16} aria-hidden /> New material
        </Button>
      </div>
      {notice}
      {data?.problem && (
        <p role="alert" className="mt-3">
          ■ {data.problem}
        </p>
      )}
      {bar}
      <ul aria-label="Materials" className="mt-4 grid grid-cols-[repeat(auto-fill,minmax(27rem,1fr))] gap-4">
        {shown.map((document) => (
          <li key={document.id} className="flex gap-4 rounded-lg border border-rule bg-panel p-3">
            <Link
              to={`/documents/${document.id}`}
              aria-label={`Open ${document.name}`}
              className="block size-28 shrink-0 overflow-hidden rounded bg-view"
            >
              {document.pictureRevision === null ? (
                <span className="flex size-full items-center justify-center p-2 text-center text-[#1d1d1c]">
                  The picture is being made
                </span>
              ) : (
                <img
                  src={`/documents/${document.id}/picture.png?r=${document.pictureRevision}`}
                  alt=""
                  className="size-full object-cover"
                />
              )}
            </Link>
            <div className="flex min-w-0 flex-1 flex-col gap-1">
              <Link to={`/documents/${document.id}`} className="truncate text-head font-semibold hover:underline">
                {document.name}
              </Link>
              <p className="text-ink-soft">
                {document.over === 'part' ? 'for parts' : `${document.metres.join(' × ')} m`},{' '}
                {counted(document.layers, 'layer')}, {counted(document.nodes, 'node')}
                <br />
                revision {document.head}, changed {agoInWords(document.changedAt, now)}
              </p>
              <Tags
                material={document}
                onTags={(tags) => send({ intent: 'tag-document', document: document.id, tags })}
              />
              <div className="mt-auto flex flex-wrap items-center gap-1">
                <Link
                  to={`/documents/${document.id}`}
                  className={buttonClasses('main')}
                  aria-label={`Open the material ${document.name}`}
                >
                  Open
                </Link>
                <Link
                  to={`/documents/${document.id}/maps`}
                  className={buttonClasses('plain')}
                  aria-label={`Maps of ${document.name}`}
                >
                  Maps
                </Link>
                <IconButton icon={Pencil} word="Rename" of={document.name} onClick={() => setRenaming(document)} />
                <IconButton
                  icon={Copy}
                  word="Duplicate"
                  of={document.name}
                  onClick={() => send({ intent: 'duplicate-document', document: document.id })}
                />
                <a
                  href={`/documents/${document.id}/material.zip`}
                  download
                  aria-label={`Export ${document.name}`}
                  title="Export as one file, with its images"
                  className="grid size-[26px] place-items-center rounded text-ink-soft hover:bg-ground hover:text-ink"
                >
                  <Download size={15} aria-hidden />
                </a>
                <IconButton icon={Trash2} word="Delete" of={document.name} onClick={() => remove(document)} />
              </div>
            </div>
          </li>
        ))}
      </ul>
      {none}
      {project.documents.length === 0 && <p className="mt-4 text-ink-soft">No materials yet.</p>}

      <ModelShelf project={project.id} models={models} now={now} onSend={send} />

      {(busy.length > 0 || ended.length > 0) && (
        <section aria-label="Bakes" className="mt-8">
          <h2 className="mb-2 text-head font-semibold">Bakes</h2>
          <RunRows runs={[...busy, ...ended.slice(0, 5)]} now={now} />
        </section>
      )}

      <section aria-label="Deliveries" className="mt-8">
        <h2 className="mb-2 text-head font-semibold">Deliveries</h2>
        {deliveries.length === 0 ? (
          <p className="text-ink-soft">
            None yet. On the Maps screen of a material its channels are packed into files and made.
          </p>
        ) : (
          <DeliveryTable
            deliveries={deliveries}
            now={now}
            onAgain={(delivery) => send({ intent: 'make-again', delivery })}
          />
        )}
      </section>

      <ProjectValues project={project.id} values={values} />

      <ImageShelf
        project={project.id}
        images={assets}
        onSend={send}
        onMaterial={(image, as) => void submit({ intent: 'material-of-image', image, as }, { method: 'post' })}
      />

      {renaming && (
        <NameDialog
          title="Rename the material"
          name={renaming.name}
          action="Rename"
          onName={(name) => send({ intent: 'rename-document', document: renaming.id, name })}
          onClose={() => setRenaming(null)}
        />
      )}
      {naming && (
        <NewDialog
          title="New material"
          about="It opens at once."
          starts={starts}
          onMake={(name, start) => void submit({ intent: 'new-document', name, start }, { method: 'post' })}
          onClose={() => setNaming(false)}
        />
      )}
    </div>
  )
}
