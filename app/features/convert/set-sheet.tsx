import { Pencil, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { useFetcher, useSubmit } from 'react-router'
import { v4 as uuid } from 'uuid'
import { channelsMadeOf, needsModel, workflowOf } from '#core/document/document-of-set'
import type { Packing } from '#core/texture/packing'
import type { Delivery } from '../../contracts/delivery'
import type { FileRole, MapSet, MapSetFile } from '../../contracts/map-set'
import type { Run } from '../../contracts/run'
import { Button, IconButton } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { NameDialog } from '../../ui/name-dialog'
import { NumberBox } from '../../ui/number-box'
import { ConvertedMaps } from './converted-maps'
import { Evenness } from './evenness'
import {
  APART,
  GREY_CHOICES,
  NOTHING,
  PAIRS,
  TOGETHER,
  greyOf,
  wholeChoices,
  wholeOf,
  withGrey,
  withWhole,
} from './role-choices'

interface SetSheetProps {
  readonly project: string
  readonly set: MapSet
  readonly packing: Pick<Packing, 'files' | 'everyChannel'>
  readonly runs: readonly Run[]
  readonly deliveries: readonly Delivery[]
  readonly now: number
  onSend(fields: Record<string, string>): void
  onDelete(): void
}

/** One set: a row a file, what its channels hold and where that goes; below it what was made. */
export function SetSheet({ project, set, packing, runs, deliveries, now, onSend, onDelete }: SetSheetProps) {
  const submit = useSubmit()
  const [renaming, setRenaming] = useState(false)
  const hasSpecular = workflowOf(set.files) === 'spec-gloss'
  return (
    <div className="min-h-0 flex-1 overflow-auto p-4">
      <div className="flex items-center gap-2">
        <h1 className="truncate text-lg font-semibold">{set.name}</h1>
        <IconButton icon={Pencil} word="Rename" of={set.name} onClick={() => setRenaming(true)} />
        <IconButton icon={Trash2} word="Delete" of={set.name} onClick={onDelete} />
        <span className="flex-1" />
        <Metres
          key={`width ${set.widthMetres}`}
          label="Width"
          help="How wide the surface is that the maps show"
          {...{ min: 0.001, usual: [0.1, 10], standard: 1, value: set.widthMetres }}
          onMetres={(metres) => onSend({ intent: 'change', set: set.id, widthMetres: String(metres) })}
        />
        {set.files.some(holdsRange) && (
          <Metres
            key={`depth ${set.heightMetres}`}
            label="Height depth"
            help="How many metres black to white of its height are"
            {...{ min: 0, usual: [0, 0.2], standard: 0.02, value: set.heightMetres }}
            onMetres={(metres) => onSend({ intent: 'change', set: set.id, heightMetres: String(metres) })}
          />
        )}
        <Button
          title="A material whose cells read these files, to build on"
          onClick={() => void submit({ intent: 'open', set: set.id }, { method: 'post' })}
        >
          Open as material
        </Button>
      </div>
      <p className="mt-1 text-ink-soft">
        {hasSpecular
          ? 'Its surface is told by diffuse and specular colours.'
          : 'Its surface is told by base colour and metallic.'}
        {needsModel(set.files) &&
          ' Its normals are in the space of a model: open it as a material and put that on the part.'}
      </p>
      <table
        aria-label="Files"
        className="mt-3 w-full border-separate border-spacing-0 rounded-lg border border-rule bg-panel text-left"
      >
        <thead className="text-ink-soft">
          <tr>
            {['File', 'R', 'G', 'B', 'A', 'Encoding', 'Goes into'].map((head) => (
              <th key={head} scope="col" className="px-2 py-1.5 font-normal">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {set.files.map((file, i) => (
            <FileRow
              key={`${i} ${file.sha256}`}
              file={file}
              isOfOtherShape={file.width * set.files[0]!.height !== file.height * set.files[0]!.width}
              hasSpecular={hasSpecular}
              goes={filesOf(packing, channelsMadeOf(file, set.files))}
              at={{ set: set.id, file: String(i) }}
            />
          ))}
        </tbody>
      </table>
      <Evenness key={set.changedAt} project={project} set={set} />
      <ConvertedMaps set={set} runs={runs} deliveries={deliveries} now={now} />
      {renaming && (
        <NameDialog
          title="Rename the set"
          name={set.name}
          action="Rename"
          onName={(name) => onSend({ intent: 'change', set: set.id, name })}
          onClose={() => setRenaming(false)}
        />
      )}
    </div>
  )
}

const holdsHeight = ({ slots }: MapSetFile): boolean => slots.some(({ channel }) => channel === 'height')
/** Whether a file holds heights from 0 to 1. */
const holdsRange = (file: MapSetFile): boolean => holdsHeight(file) && !(file.float && file.inMetres)

function Metres({
  label,
  help,
  min,
  usual,
  standard,
  value,
  onMetres,
}: {
  label: string
  help: string
  min: number
  usual: readonly [number, number]
  standard: number
  value: number
  onMetres(metres: number): void
}) {
  const [metres, setMetres] = useState(value)
  return (
    <span className="flex items-center gap-2" title={help}>
      <span className="text-ink-soft">{label}</span>
      <span className="w-24">
        <NumberBox
          label={label}
          unit="m"
          min={min}
          max={1000}
          softRange={usual}
          standard={standard}
          value={metres}
          onDrag={setMetres}
          onDrop={() => onMetres(metres)}
        />
      </span>
    </span>
  )
}

/** Files of a packing that hold one of these channels, with the slots that do. */
function filesOf(
  { files, everyChannel }: Pick<Packing, 'files' | 'everyChannel'>,
  channels: ReadonlySet<string>,
): string[] {
  const into = files.flatMap(({ map, slots }) => {
    const held = slots.flatMap((slot, s) => ('channel' in slot && channels.has(slot.channel) ? [s] : []))
    if (held.length === 0) return []
    return [held.length === slots.length ? map : `${map} ${held.map((s) => 'RGBA'[s]).join('')}`]
  })
  return everyChannel && channels.size > 0 ? [...into, 'a file of its own'] : into
}

/** This page, and how often it has said what a file holds. */
const PAGE = uuid()
let turn = 0

function FileRow({
  file: kept,
  isOfOtherShape,
  hasSpecular,
  goes,
  at,
}: {
  file: MapSetFile
  isOfOtherShape: boolean
  hasSpecular: boolean
  goes: readonly string[]
  at: { readonly set: string; readonly file: string }
}) {
  // A fetcher of its own: a change of another row does not break this one off. Until it is saved what was chosen is shown, and built on.
  const fetcher = useFetcher()
  const sent = fetcher.formData?.get('role')
  const file: MapSetFile = typeof sent === 'string' ? { ...kept, ...(JSON.parse(sent) as FileRole), by: 'hand' } : kept
  const onRole = (role: FileRole): void =>
    void fetcher.submit(
      { intent: 'role', ...at, role: JSON.stringify(role), said: JSON.stringify({ page: PAGE, turn: ++turn }) },
      { method: 'post' },
    )
  const { sha256, name, width, height, channels, bits, float, transfer, slots } = file
  const whole = wholeOf(file)
  const isUsed = slots.some(({ channel }) => channel !== null)
  const grey = (index: number) => (
    <Choice
      label={`${'RGBA'[index]} of ${name}`}
      value={greyOf(slots[index])}
      options={
        index === 0 && channels > 2
          ? [...GREY_CHOICES, { value: TOGETHER, word: 'R, G and B together …' }]
          : GREY_CHOICES
      }
      onChange={(value) => onRole(value === TOGETHER ? withWhole(file, NOTHING) : withGrey(file, index, value))}
      className="w-full"
    />
  )
  const alpha = channels === 2 ? null : channels === 4 && whole !== NOTHING ? grey(3) : null
  return (
    <tr className={`*:border-t *:border-rule *:px-2 *:py-1.5 ${isUsed ? '' : 'text-ink-soft'}`}>
      <td className="w-[34%]">
        <span className="flex items-center gap-3">
          <img
            src={`/assets/${sha256}/thumbnail.png`}
            alt=""
            className={`size-10 shrink-0 rounded bg-view object-cover ${isUsed ? '' : 'opacity-50'}`}
          />
          <span className="min-w-0">
            <span className="block max-w-[19rem] truncate" title={name}>
              {name}
            </span>
            <span className="block text-note text-ink-soft">
              {width} × {height}, {float ? 'float' : `${bits} bits`} · {howKnown(file)}
            </span>
            {isOfOtherShape && <span className="block text-note">▲ It is of another shape and will be stretched.</span>}
          </span>
        </span>
      </td>
      {channels === 1 ? (
        <td colSpan={3}>{grey(0)}</td>
      ) : channels === 2 ? (
        <td colSpan={3}>
          <Choice
            label={`R and G of ${name}`}
            value={PAIRS.some(({ value }) => value === whole) ? whole : greyOf(slots[0])}
            options={[...PAIRS, ...GREY_CHOICES]}
            onChange={(value) =>
              onRole(
                PAIRS.some((pair) => pair.value === value)
                  ? withWhole(file, value)
                  : withGrey({ ...file, slots: [] }, 0, value),
              )
            }
            className="w-full"
          />
        </td>
      ) : whole === APART ? (
        [0, 1, 2].map((index) => <td key={index}>{grey(index)}</td>)
      ) : (
        <td colSpan={3}>
          <Choice
            label={`R, G and B of ${name}`}
            value={whole}
            options={wholeChoices(hasSpecular)}
            onChange={(value) => onRole(withWhole(file, value))}
            className="w-full"
          />
        </td>
      )}
      <td>{alpha}</td>
      <td>
        {float && holdsHeight(file) ? (
          <Choice
            label={`Heights of ${name}`}
            value={file.inMetres ? 'metres' : 'range'}
            options={[
              { value: 'metres', word: 'in metres' },
              { value: 'range', word: '0 to 1' },
            ]}
            onChange={(value) => onRole({ transfer, slots: [...slots], inMetres: value === 'metres' })}
          />
        ) : float ? (
          'linear'
        ) : isUsed ? (
          <Choice
            label={`Encoding of ${name}`}
            value={transfer}
            options={[
              { value: 'srgb', word: 'sRGB' },
              { value: 'raw', word: 'raw' },
            ]}
            onChange={(value) => onRole({ transfer: value as 'srgb' | 'raw', slots: [...slots] })}
          />
        ) : null}
      </td>
      <td>{isUsed ? goes.length > 0 ? goes.join(', ') : <span className="text-ink-soft">nothing</span> : null}</td>
    </tr>
  )
}

/** How it is known what a file holds. */
function howKnown({ by, green, slots }: MapSetFile): string {
  if (by === 'hand') return 'set by hand'
  if (slots.length === 0) return by === null ? 'nothing tells what it is' : 'another file holds the same'
  const told = { name: 'told by its name', texels: 'known by its texels', guess: '▲ guessed from its texels' }[by!]
  return green === null ? told : `${told}, green points ${green}`
}
