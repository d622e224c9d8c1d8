import { FolderOpen, Upload } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import type { Packing } from '#core/texture/packing'
import { heldIn } from '#core/texture/replacing'
import { useSends } from '../../session/use-sends'
import type { Delivery } from '../../contracts/delivery'
import type { MapSet } from '../../contracts/map-set'
import type { Run } from '../../contracts/run'
import type { PlacedFile } from '../../session/dropped-files'
import { chosenFiles, droppedFiles, takeHandedFiles } from '../../session/dropped-files'
import { useNow, useRuns } from '../../session/runs/use-runs'
import { IMAGE_FILES } from '../../session/send-file'
import { useLoadAgain } from '../../session/use-load-again'
import { Button } from '../../ui/button'
import { useDeleted } from '../../ui/deleted-notice'
import type { Target } from './make-bar'
import { MakeBar } from './make-bar'
import { SetList } from './set-list'
import { SetSheet } from './set-sheet'
import { useAddSets } from './use-add-sets'

export interface ConvertViewProps {
  readonly project: { readonly id: string; readonly name: string }
  readonly sets: readonly MapSet[]
  readonly deliveries: readonly Delivery[]
  readonly runs: readonly Run[]
  readonly packings: readonly Packing[]
  readonly now: number
}

/** Existing sets of maps: what each file holds, what they become, and what came of it. */
export function ConvertView({ project, sets, deliveries, runs: loaded, packings, now: loadedAt }: ConvertViewProps) {
  const loadAgain = useLoadAgain()
  const { send, data } = useSends<Record<string, string>, { problem?: string; told?: string }>('form')
  const runs = useRuns(loaded, `project:${project.id}`)
  const busy = runs.some(({ state }) => state === 'running' || state === 'queued')
  const now = useNow(loadedAt, busy)
  const [chosen, setChosen] = useState<string | null>(null)
  const {
    add,
    busy: reading,
    problems,
  } = useAddSets(() => {
    setChosen(null)
    void loadAgain()
  })
  const [over, setOver] = useState(false)
  const [wanted, setWanted] = useState(USUAL)
  const set = sets.find(({ id }) => id === chosen) ?? sets[0]
  const others = sets.filter((one) => one !== set)
  const usual = packings.find(({ name }) => name === USUAL) ?? packings[0]!
  const target: Target = others.find(({ id }) => id === wanted) ?? packings.find(({ name }) => name === wanted) ?? usual
  const { remove, notice } = useDeleted<MapSet>(
    ({ id }) => send({ intent: 'delete', set: id }),
    ({ id }) => send({ intent: 'undelete', set: id }),
  )
  // Folders that were dropped on the project's page.
  useEffect(() => {
    const handed = takeHandedFiles()
    if (handed.length > 0) void add(handed)
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [])
  const runOf = ({ documentId }: MapSet): Run | undefined =>
    runs.find((run) => run.kind === 'bake' && run.documentId === documentId)
  const deliveriesOf = (one: MapSet): Delivery[] => deliveries.filter(({ documentId }) => documentId === one.documentId)
  /** Those under way, or the newest where it came to nothing. */
  const runsOf = (one: MapSet): Run[] =>
    runs.filter(
      (run) =>
        run.kind === 'bake' &&
        run.documentId === one.documentId &&
        (run.state === 'queued' || run.state === 'running' || (run === runOf(one) && run.state !== 'done')),
    )
  return (
    <div
      className={`grid h-full grid-cols-[17rem_minmax(0,1fr)] ${over ? 'outline-2 -outline-offset-2 outline-accent' : ''}`}
      onDragOver={(event) => {
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault()
        setOver(false)
        void droppedFiles(event.dataTransfer).then(add)
      }}
    >
      <aside className="flex min-h-0 flex-col border-r border-rule bg-panel">
        <AddButtons busy={reading !== null} onFiles={(files) => void add(files)} />
        <p role="status" className="px-3 pb-2 text-note text-ink-soft">
          {reading ?? 'Files and folders can be dropped anywhere here.'}
        </p>
        {problems.map((problem) => (
          <p key={problem} role="alert" className="px-3 pb-2">
            ■ {problem}
          </p>
        ))}
        {notice && <div className="px-3 pb-2">{notice}</div>}
        <SetList
          sets={sets}
          shown={set?.id}
          runOf={runOf}
          deliveryOf={(one) => deliveriesOf(one)[0]}
          onChoose={setChosen}
        />
      </aside>
      <section aria-label="Conversion" className="flex min-h-0 flex-col">
        {set ? (
          <>
            <MakeBar
              packings={packings}
              target={target}
              others={others}
              onTarget={(one) => setWanted('widthMetres' in one ? one.id : one.name)}
              onReplace={({ id }) => send({ intent: 'replace', set: set.id, target: id })}
              count={sets.length}
              onConvert={(how, all) =>
                send({ intent: 'convert', sets: (all ? sets.map(({ id }) => id) : [set.id]).join(','), ...how })
              }
            />
            {data?.told && (
              <p role="status" className="border-b border-rule bg-panel px-4 py-2">
                {data.told}
              </p>
            )}
            {data?.problem && (
              <p role="alert" className="border-b border-rule bg-panel px-4 py-2">
                ■ {data.problem}
              </p>
            )}
            <SetSheet
              key={set.id}
              project={project.id}
              set={set}
              packing={'widthMetres' in target ? packingOf(target) : target}
              runs={runsOf(set)}
              deliveries={deliveriesOf(set)}
              now={now}
              onSend={send}
              onDelete={() => remove(set)}
            />
          </>
        ) : (
          <Empty />
        )}
      </section>
    </div>
  )
}

/** What goes where in the files of a set, as a packing. */
const packingOf = ({ files }: MapSet): Pick<Packing, 'files' | 'everyChannel'> => ({
  files: files.map(({ name, slots }) => ({
    map: name,
    slots: heldIn({ slots }, files).map(({ channel, component, inverted }) =>
      channel === null ? { constant: 0 } : { channel, component, invert: inverted },
    ),
  })) as unknown as Packing['files'],
})

/** What most engines take. */
const USUAL = 'occlusion-rough-metal-y-up'

function AddButtons({ busy, onFiles }: { busy: boolean; onFiles(files: readonly PlacedFile[]): void }) {
  const files = useRef<HTMLInputElement>(null)
  const folder = useRef<HTMLInputElement>(null)
  // React knows no such attribute: a dialog for folders.
  useEffect(() => folder.current?.setAttribute('webkitdirectory', ''), [])
  return (
    <div className="flex gap-2 p-3 pb-2">
      <Button disabled={busy} onClick={() => files.current?.click()}>
        <Upload size={14} aria-hidden /> Add files
      </Button>
      <Button disabled={busy} onClick={() => folder.current?.click()}>
        <FolderOpen size={14} aria-hidden /> Add folder
      </Button>
      {(
        [
          [files, 'Files of a set of maps', IMAGE_FILES],
          [folder, 'Folder of sets of maps', undefined],
        ] as const
      ).map(([input, label, accept]) => (
        <input
          key={label}
          ref={input}
          type="file"
          multiple
          hidden
          accept={accept}
          aria-label={label}
          onChange={(event) => {
            onFiles(chosenFiles(event.target.files))
            event.target.value = ''
          }}
        />
      ))}
    </div>
  )
}

const Empty = () => (
  <div className="m-auto max-w-[34rem] p-6">
    <h1 className="text-lg font-semibold">Convert existing maps</h1>
    <ol className="mt-3 list-decimal space-y-1.5 pl-5">
      <li>Drop the files of a set of maps, or a folder of such folders: each folder becomes a set.</li>
      <li>See what each file is taken for, by its name or by its texels, and say otherwise where it is wrong.</li>
      <li>Choose a packing and convert: one set, or all of them. The results are checked.</li>
    </ol>
    <p className="mt-3 text-ink-soft">
      Metal and roughness become diffuse, specular and gloss, and the other way round. A set can also be opened as a
      material whose cells read its files. Light that is baked into a picture cannot be taken out.
    </p>
  </div>
)
