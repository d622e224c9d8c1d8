import { ArrowDown, ArrowUp, BookmarkPlus, Copy, Dices, Grid3X3, RotateCcw, Settings2, Trash2, X } from 'lucide-react'
import { memo, useState } from 'react'
import { Link } from 'react-router'
import { applyPreset, presetNow, randomiseDials, savePreset } from '#core/document/edits/presets'
import { dialEnds, driveEnds, moveDial, setDriveEnds } from '#core/document/edits/dials'
import type { Dial, MaterialDocument } from '#core/document/document'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { NameDialog } from '../../ui/name-dialog'
import { ColourBox } from '../../ui/colour-field'
import { NumberBox } from '../../ui/number-box'
import { FieldLabel, NumberField } from '../../ui/number-field'
import { ToolButton } from '../../ui/tool-button'
import { writeClipboard } from '../../session/clipboard'
import { useActions, useDocument, useMaterial } from '../../session/material'
import { ImageField } from '../../session/parts/image-field'
import { drivenSetting } from './driven'
import { Variations } from './variations'

/** The dials of a material, by section: turning, and arranging them. */
export function DialsBoard() {
  const document = useDocument()
  const actions = useActions()
  const [arranging, setArranging] = useState<string | null>(null)
  const [varying, setVarying] = useState(false)
  const sections = [...new Set(document.dials.map(({ section }) => section ?? ''))]
  const reset = (): void =>
    actions.edit('Reset all dials', (draft) => {
      for (const dial of draft.dials) if (dial.shared === undefined) dial.value = dial.default
    })
  const turned = document.dials.some((dial) => dial.shared === undefined && dial.value !== dial.default)
  return (
    <section aria-label="Dials" className="flex max-w-[56rem] flex-col gap-3 p-3">
      {document.dials.length === 0 ? (
        <p className="text-ink-soft">
          This material has no dials yet. Choose a node, a cell or a layer, and press the gauge beside one of its
          settings.
        </p>
      ) : (
        <div className="flex flex-wrap items-center justify-end gap-1">
          <Presets />
          <span className="flex-1" />
          <Button variant="quiet" title="Nine side by side" onClick={() => setVarying(true)}>
            <Grid3X3 size={13} aria-hidden /> Variations
          </Button>
          <Button
            variant="quiet"
            title="All numbers within their ranges, seeds, choices and switches"
            onClick={() => actions.edit('Dials at random', (draft) => randomiseDials(draft, Math.random))}
          >
            <Dices size={13} aria-hidden /> At random
          </Button>
          <Button variant="quiet" disabled={!turned} onClick={reset}>
            <RotateCcw size={13} aria-hidden /> All to their defaults
          </Button>
        </div>
      )}
      {varying && <Variations onClose={() => setVarying(false)} />}
      {sections.map((section) => (
        <div key={section} className="flex flex-col gap-1.5">
          {section && <h3 className="font-semibold">{section}</h3>}
          {document.dials
            .filter((dial) => (dial.section ?? '') === section)
            .map((dial) => (
              <DialRow key={dial.id} dial={dial} arranged={arranging === dial.id} onArrange={setArranging} />
            ))}
        </div>
      ))}
    </section>
  )
}

/** All dials under a name: kept, brought back, taken away. */
function Presets() {
  const actions = useActions()
  const document = useDocument()
  const [naming, setNaming] = useState(false)
  const now = presetNow(document)
  const presets = Object.entries(document.presets)
  return (
    <>
      {presets.length > 0 && (
        <Choice
          label="Preset of all dials"
          value={now ?? ''}
          options={[
            ...(now === null ? [{ value: '', word: 'no preset' }] : []),
            ...presets.map(([value, { name }]) => ({ value, word: name })),
          ]}
          onChange={(id) =>
            actions.edit(`Preset ${document.presets[id]?.name ?? ''}`, (draft) => applyPreset(draft, id))
          }
        />
      )}
      <Button variant="quiet" onClick={() => setNaming(true)} title="Keeps all dials as they stand under a name">
        <BookmarkPlus size={13} aria-hidden /> Keep as preset
      </Button>
      {now !== null && (
        <ToolButton
          icon={Trash2}
          word={`Delete the preset ${document.presets[now]!.name}`}
          onClick={() => actions.edit('Delete preset', (draft) => void delete draft.presets[now])}
        />
      )}
      {naming && (
        <NameDialog
          title="Keep all dials as a preset"
          about="One that has this name already takes the values of now."
          action="Keep"
          onName={(name) => actions.edit(`Keep preset ${name}`, (draft) => void savePreset(draft, name))}
          onClose={() => setNaming(false)}
        />
      )}
    </>
  )
}

interface DialRowProps {
  readonly dial: Dial
  readonly arranged: boolean
  readonly onArrange: (id: string | null) => void
}

/** One dial: turned, reset, arranged. Rendered again only when it changed itself. */
const DialRow = memo(function DialRow({ dial, arranged, onArrange }: DialRowProps) {
  const actions = useActions()
  return (
    <div className="group/dial flex flex-col gap-2" data-dial={dial.id}>
      <div className="flex items-center gap-1">
        <div className="min-w-0 flex-1">
          <DialControl dial={dial} />
        </div>
        <ToolButton
          icon={RotateCcw}
          word={`${dial.label}: back to the default`}
          disabled={dial.value === dial.default || dial.shared !== undefined}
          onClick={() =>
            actions.edit(
              dial.label,
              write(dial.id, (one) => (one.value = one.default)),
            )
          }
        />
        <ToolButton
          icon={Settings2}
          word={`${dial.label}: arrange`}
          pressed={arranged}
          onClick={() => onArrange(arranged ? null : dial.id)}
        />
      </div>
      {arranged && <DialSettings dial={dial} />}
    </div>
  )
})

const write = (id: string, change: (dial: Dial) => void) => (draft: MaterialDocument) => {
  const dial = draft.dials.find((one) => one.id === id)
  if (dial) change(dial)
}

/** One dial, to turn. */
function DialControl({ dial }: { dial: Dial }) {
  const actions = useActions()
  const drag = (value: Dial['value']): void =>
    actions.drag(
      dial.label,
      write(dial.id, (one) => (one.value = value)),
    )
  const set = (value: Dial['value']): void =>
    actions.edit(
      dial.label,
      write(dial.id, (one) => (one.value = value)),
    )
  if (dial.shared !== undefined) return <Followed dial={dial} name={dial.shared} />
  const help = dial.help || `Drives ${dial.drives.length} ${dial.drives.length === 1 ? 'setting' : 'settings'}.`
  if (dial.kind === 'number' || dial.kind === 'whole')
    return (
      <NumberField
        label={dial.label}
        help={help}
        unit={dial.unit}
        whole={dial.kind === 'whole'}
        min={dial.min ?? -1e6}
        max={dial.max ?? 1e6}
        softRange={dial.min === undefined || dial.max === undefined ? [0, 1] : undefined}
        standard={Number(dial.default)}
        value={Number(dial.value)}
        onDrag={drag}
        onDrop={actions.drop}
      />
    )
  return (
    <div className="grid min-h-6 grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
      <FieldLabel label={dial.label} help={help} />
      {dial.kind === 'seed' ? (
        <span className="flex items-center gap-2">
          <NumberBox
            label={dial.label}
            whole
            min={0}
            max={4294967295}
            softRange={[0, 99]}
            standard={Number(dial.default)}
            value={Number(dial.value)}
            onDrag={drag}
            onDrop={actions.drop}
            className="w-28"
          />
          <Button aria-label={`${dial.label}: roll another`} onClick={() => set(Math.floor(Math.random() * 10000))}>
            <Dices size={14} aria-hidden /> Reroll
          </Button>
        </span>
      ) : dial.kind === 'switch' ? (
        <input
          type="checkbox"
          role="switch"
          aria-label={dial.label}
          className="size-4 justify-self-start accent-accent"
          checked={dial.value === true}
          onChange={(event) => set(event.target.checked)}
        />
      ) : dial.kind === 'colour' ? (
        <ColourBox
          label={dial.label}
          value={String(dial.value)}
          standard={String(dial.default)}
          onDrag={drag}
          onDrop={actions.drop}
          onPick={actions.pickColour}
        />
      ) : dial.kind === 'image' ? (
        <ImageField label={dial.label} value={String(dial.value)} onChange={set} />
      ) : (
        <Choice
          label={dial.label}
          value={String(dial.value)}
          options={(dial.options ?? []).map((value) => ({ value, word: value.replace(/-/g, ' ') }))}
          onChange={set}
          className="justify-self-start"
        />
      )}
    </div>
  )
}

/** A dial that follows a value of the project: changed there, for all materials. */
function Followed({ dial, name }: { dial: Dial; name: string }) {
  const { project, values } = useMaterial()
  const value = String(dial.value)
  const isThere = values.some((one) => one.name === name)
  return (
    <div className="grid min-h-6 grid-cols-[7.5rem_minmax(0,1fr)] items-center gap-2">
      <FieldLabel label={dial.label} help={`Follows “${name}” of the project.`} />
      <span className="flex items-center gap-2">
        {dial.kind === 'colour' && (
          <span className="h-5 w-9 rounded border border-rule-strong" style={{ background: value }} />
        )}
        <span className="font-mono">{value}</span>
        <Link to={`/projects/${project}#values`} className="text-ink-soft underline">
          {isThere ? 'of the project: change it there' : '▲ the project has no value of that name'}
        </Link>
      </span>
    </div>
  )
}

/** A dial's name, section, place, range, unit, and what it drives. */
function DialSettings({ dial }: { dial: Dial }) {
  const actions = useActions()
  const document = useDocument()
  const change = (label: string, how: (one: Dial) => void): void => actions.edit(label, write(dial.id, how))
  const peers = document.dials.filter((one) => (one.section ?? '') === (dial.section ?? ''))
  const at = peers.indexOf(dial)
  const move = (by: 1 | -1): void => {
    const before = by === 1 ? (peers[at + 2]?.id ?? null) : peers[at - 1]!.id
    actions.edit('Move dial', (draft) => moveDial(draft, dial.id, before, dial.section ?? ''))
  }
  const numeric = dial.kind === 'number' || dial.kind === 'whole'
  return (
    <div className="flex flex-col gap-2 rounded-md border border-rule-strong bg-raised p-2">
      <div className="flex flex-wrap items-end gap-2">
        <Text
          label="Name"
          value={dial.label}
          onChange={(label) => label && change('Rename dial', (one) => (one.label = label))}
        />
        <Text
          label="Section"
          value={dial.section ?? ''}
          onChange={(section) =>
            change('Section of dial', (one) => {
              if (section === '') delete one.section
              else one.section = section
            })
          }
        />
        {numeric && (
          <Text
            label="Unit"
            value={dial.unit ?? ''}
            width="w-14"
            onChange={(unit) =>
              change('Unit of dial', (one) => {
                if (unit === '') delete one.unit
                else one.unit = unit.slice(0, 16)
              })
            }
          />
        )}
        <span className="flex">
          <ToolButton icon={ArrowUp} word="Move the dial up" disabled={at === 0} onClick={() => move(-1)} />
          <ToolButton
            icon={ArrowDown}
            word="Move the dial down"
            disabled={at === peers.length - 1}
            onClick={() => move(1)}
          />
          <ToolButton
            icon={Copy}
            word={`Copy the dial ${dial.label}`}
            onClick={() => void writeClipboard(actions.copyDials([dial.id]), actions.notify)}
          />
          <ToolButton
            icon={Trash2}
            word={`Delete the dial ${dial.label}`}
            onClick={() =>
              actions.edit(`Delete dial ${dial.label}`, (draft) => {
                draft.dials = draft.dials.filter((one) => one.id !== dial.id)
              })
            }
          />
        </span>
      </div>
      <Text
        label="Help"
        value={dial.help ?? ''}
        width="w-full"
        onChange={(help) =>
          change('Help of dial', (one) => {
            if (help === '') delete one.help
            else one.help = help
          })
        }
      />
      {numeric && (
        <div className="flex flex-wrap items-center gap-2">
          <span className="text-ink-soft">From</span>
          <End dial={dial} end="min" />
          <span className="text-ink-soft">to</span>
          <End dial={dial} end="max" />
          <Button
            variant="quiet"
            disabled={dial.value === dial.default}
            onClick={() => change('Default of dial', (one) => (one.default = one.value))}
          >
            Make this value the default
          </Button>
        </div>
      )}
      {(dial.kind === 'number' || dial.kind === 'colour') && <Sharing dial={dial} />}
      <ul aria-label={`What ${dial.label} drives`} className="flex flex-col gap-1">
        {dial.drives.map((drive, index) => (
          <li key={index} className="flex flex-wrap items-center gap-1.5">
            <span className="min-w-32 flex-1">{drivenSetting(document, drive).words}</span>
            {numeric && (
              <>
                <span className="text-ink-soft">from</span>
                <DriveEnd dial={dial} index={index} end={0} />
                <span className="text-ink-soft">to</span>
                <DriveEnd dial={dial} index={index} end={1} />
              </>
            )}
            <ToolButton
              icon={X}
              word={`No longer drive ${drivenSetting(document, drive).words}`}
              onClick={() => change('Free from dial', (one) => (one.drives = one.drives.filter((_, i) => i !== index)))}
            />
          </li>
        ))}
        {dial.drives.length === 0 && (
          <li className="text-ink-soft">Drives nothing. Bind it with the gauge beside a setting.</li>
        )}
      </ul>
    </div>
  )
}

/** Makes a value of the project of a dial, or has it stand on its own again. */
function Sharing({ dial }: { dial: Dial }) {
  const actions = useActions()
  const { shareValue, values } = useMaterial()
  const { shared } = dial
  if (shared !== undefined)
    return (
      <Button
        className="self-start"
        onClick={() =>
          actions.edit(
            'No longer follow',
            write(dial.id, (one) => void delete one.shared),
          )
        }
      >
        No longer follow “{shared}”
      </Button>
    )
  const share = async (): Promise<void> => {
    const value = values.find(({ name }) => name === dial.label)
    if (value) return actions.notify(`The project has a value “${dial.label}” already. Rename the dial first.`)
    const problem = await shareValue({ name: dial.label, value: dial.value as string | number })
    if (problem !== null) return actions.notify(`■ ${problem}`)
    actions.edit(
      'Share with the project',
      write(dial.id, (one) => (one.shared = one.label)),
    )
    actions.notify(`“${dial.label}” is a value of the project now; other materials can follow it.`)
  }
  return (
    <Button className="self-start" title="Other materials of the project can follow it" onClick={() => void share()}>
      Share with the project
    </Button>
  )
}

function Text({
  label,
  value,
  width = 'w-32',
  onChange,
}: {
  label: string
  value: string
  width?: string
  onChange(value: string): void
}) {
  return (
    <label className={`flex flex-col ${width}`}>
      <span className="text-note text-ink-soft">{label}</span>
      <input
        key={value}
        defaultValue={value}
        maxLength={200}
        onBlur={(event) => event.target.value.trim() !== value && onChange(event.target.value.trim())}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
        className="rounded border border-rule-strong bg-panel px-1.5 py-0.5"
      />
    </label>
  )
}

/** An end of a dial's range; the value and the default stay inside. */
function End({ dial, end }: { dial: Dial; end: 'min' | 'max' }) {
  const actions = useActions()
  const value = dialEnds(dial)[end === 'min' ? 0 : 1]
  const set = (next: number): void =>
    actions.drag(
      'Range of dial',
      write(dial.id, (one) => {
        one[end] = next
        const inside = (v: Dial['value']): Dial['value'] =>
          Math.min(one.max ?? Infinity, Math.max(one.min ?? -Infinity, Number(v)))
        one.value = inside(one.value)
        one.default = inside(one.default)
      }),
    )
  return (
    <NumberBox
      label={end === 'min' ? 'Least value of the dial' : 'Greatest value of the dial'}
      whole={dial.kind === 'whole'}
      min={end === 'max' ? (dial.min ?? -1e6) : -1e6}
      max={end === 'min' ? (dial.max ?? 1e6) : 1e6}
      softRange={[0, 1]}
      standard={end === 'min' ? 0 : 1}
      value={value}
      onDrag={set}
      onDrop={actions.drop}
      className="w-20"
    />
  )
}

/** What one target of a dial is at one end of the dial's turn; the other end stays. */
function DriveEnd({ dial, index, end }: { dial: Dial; index: number; end: 0 | 1 }) {
  const actions = useActions()
  const setting = drivenSetting(useDocument(), dial.drives[index]!)
  const ends = driveEnds(dial, dial.drives[index]!)
  const dialEnd = dialEnds(dial)[end]
  return (
    <NumberBox
      label={`${setting.words} where the dial is at ${dialEnd}`}
      unit={setting.unit}
      min={Math.min(setting.min, ends[end])}
      max={Math.max(setting.max, ends[end])}
      standard={dialEnd}
      value={ends[end]}
      onDrag={(value) =>
        actions.drag(
          'Range of driven setting',
          write(dial.id, (one) => {
            const [from, to] = driveEnds(one, one.drives[index]!)
            setDriveEnds(one, one.drives[index]!, end === 0 ? value : from, end === 1 ? value : to)
          }),
        )
      }
      onDrop={actions.drop}
      className="w-20"
    />
  )
}
