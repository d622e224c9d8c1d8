import { Trash2 } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import type { BlockForm } from '#core/texture/edit-packing'
import { removeFile, renameFile, setForm, setSlot } from '#core/texture/edit-packing'
import type { FilePlan, SlotPlan } from '#core/texture/packing'
import type { BlockKind } from '#core/kernels/blocks/blocks'
import { BLOCK_KINDS } from '#core/kernels/blocks/blocks'
import type { BlockQuality } from '#core/kernels/blocks/blocks'
import { BLOCK_QUALITIES } from '#core/kernels/blocks/blocks'
import { BLOCK_SLOTS } from '#core/texture/packing'
import { holdsFloats, writtenFormat, writtenFormats } from '#core/texture/format-registry'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { NumberBox } from '../../ui/number-box'
import { useChannels, useMaps, usePackings } from './maps'
import { inverted, useEditFiles, useFiles } from './files'
import { SLOT_NAMES, planesOf } from './slot-words'

const ROW = 'grid grid-cols-[5.5rem_1fr] items-center gap-2'

/** What goes into one slot: a plane of a channel, inverted or not, a constant, what another slot holds, or nothing. */
export function SlotEditor({ file, slot }: { file: FilePlan; slot: 0 | 1 | 2 | 3 }) {
  const channels = useChannels()
  const { files } = useFiles()
  const { packings } = useMaps()
  const edit = useEditFiles()
  const slotPlan = file.slots[slot]
  const name = `${file.map} ${SLOT_NAMES[slot]}`
  const put = (label: string, next: SlotPlan | null): void =>
    edit(label, (now) => setSlot(now, file.map, slot, next, channels))
  const others = files.flatMap((other) =>
    other.slots.flatMap((_, i) =>
      other.map === file.map && i === slot
        ? []
        : [{ value: `follow:${other.map}:${i}`, word: `as ${other.map} ${SLOT_NAMES[i]}` }],
    ),
  )
  const value = !slotPlan
    ? 'empty'
    : 'constant' in slotPlan
      ? 'constant'
      : 'follows' in slotPlan
        ? `follow:${slotPlan.follows.map}:${slotPlan.follows.slot}`
        : `${slotPlan.channel}.${slotPlan.component}`
  const select = (next: string): void => {
    if (next === 'empty') return put(`Clear ${name}`, null)
    if (next === 'constant') return put(`Constant in ${name}`, { constant: slot === 3 ? 1 : 0 })
    if (next.startsWith('follow:')) {
      const [, map = '', at = '0'] = next.split(':')
      return put(`Link ${name}`, { follows: { map, slot: Number(at) } })
    }
    const dot = next.lastIndexOf('.')
    put(`Choose ${name}`, {
      channel: next.slice(0, dot),
      component: Number(next.slice(dot + 1)),
      invert: slotPlan !== undefined && 'channel' in slotPlan && slotPlan.invert,
    })
  }
  return (
    <div className="flex flex-col gap-2">
      <h3 className="font-semibold">{name}</h3>
      <label className={ROW}>
        <span className="text-ink-soft">Holds</span>
        <Choice
          label={`What ${name} holds`}
          value={value}
          options={[
            { value: 'empty', word: slot === 3 || (slot > 0 && file.slots.length === 1) ? 'nothing' : 'nothing (0)' },
            { value: 'constant', word: 'a constant' },
            ...planesOf(channels),
            ...others,
          ]}
          onChange={select}
        />
      </label>
      {slotPlan && 'channel' in slotPlan && (
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="accent-accent"
            checked={slotPlan.invert}
            onChange={() => put(`Invert ${name}`, inverted(slotPlan))}
          />
          Inverted: 1 − value
        </label>
      )}
      {slotPlan && 'constant' in slotPlan && (
        <label className={ROW}>
          <span className="text-ink-soft">Value</span>
          <NumberBox
            label={`Constant of ${name}`}
            min={0}
            max={1}
            standard={0}
            value={slotPlan.constant}
            onDrag={(constant) =>
              edit(`Constant in ${name}`, (now) => setSlot(now, file.map, slot, { constant }, channels), true)
            }
            onDrop={packings.rest}
          />
        </label>
      )}
    </div>
  )
}

/**
 * What a file is called within its packing. Enter, a press elsewhere and closing take the name over, Escape does not; where it
 * is taken, the editor stays and says so.
 */
function MapName({ map }: { map: string }) {
  const { view, packings } = useMaps()
  const edit = useEditFiles()
  const [typed, setTyped] = useState(map)
  const [problem, setProblem] = useState<string | null>(null)
  /** Takes the name over; whether the editor may close. */
  const commit = (): boolean => {
    const to = typed.trim()
    if (to === map) return true
    const { files } = packings.store.getState().packing
    if (to === '' || files.some((one) => one.map === to)) {
      setProblem(to === '' ? 'A file needs a name.' : `There is a file “${to}” already.`)
      return false
    }
    edit(`Rename ${map}`, (now) => renameFile(now, map, to))
    const { packing, notice } = packings.store.getState()
    if (!packing.files.some((one) => one.map === to)) {
      setProblem(notice)
      return false
    }
    view.setState(({ place }) => ({ place: { ...place, map: to }, editing: false }))
    return true
  }
  // An editor that is closed by a press elsewhere takes what was typed along.
  const closing = useRef<() => void>(() => {})
  const escaped = useRef(false)
  useEffect(() => {
    closing.current = () => void (escaped.current || commit())
  })
  useEffect(() => () => closing.current(), [])
  return (
    <>
      <form
        className={ROW}
        onSubmit={(event) => {
          event.preventDefault()
          if (commit() && typed.trim() === map) view.setState({ editing: false })
        }}
      >
        <label htmlFor="map-name" className="text-ink-soft">
          {'{map}'}
        </label>
        <input
          id="map-name"
          value={typed}
          maxLength={64}
          aria-invalid={problem !== null || undefined}
          aria-describedby={problem === null ? undefined : 'map-name-problem'}
          onChange={(event) => {
            setTyped(event.target.value)
            setProblem(null)
          }}
          onBlur={commit}
          onKeyDown={(event) => {
            if (event.key === 'Escape') escaped.current = true
          }}
          className="min-w-0 rounded border border-rule-strong bg-raised px-1.5 py-0.5"
        />
      </form>
      {problem && (
        <p id="map-name-problem" role="alert">
          ■ {problem}
        </p>
      )}
    </>
  )
}

const BLOCK_WORDS: Readonly<Record<BlockKind, string>> = {
  bc1: 'BC1, colour in half a byte',
  bc3: 'BC3, colour and alpha',
  bc4: 'BC4, one grey',
  bc5: 'BC5, normals by X and Y',
  bc7: 'BC7, the nearest',
}
const QUALITY_WORDS: Readonly<Record<BlockQuality, string>> = {
  fast: 'fast',
  normal: 'normal',
  best: 'best, slow',
}

/** How a file is compressed for graphics cards, in formats that hold blocks and mips. */
function Blocks({ file, onChange }: { file: FilePlan; onChange: (change: BlockForm) => void }) {
  const { map, format, slots, block, quality = 'normal', mips = false, roughens = false } = file
  if (!writtenFormat(format).write.holdsBlocks) return null
  const fitting = BLOCK_KINDS.filter((kind) => BLOCK_SLOTS[kind].includes(slots.length))
  const holdsRoughness = slots.some((slot) => 'channel' in slot && slot.channel === 'roughness')
  return (
    <>
      <label className={ROW}>
        <span className="text-ink-soft">Blocks</span>
        <Choice
          label={`Blocks of ${map}`}
          value={block ?? ''}
          options={[
            { value: '', word: 'none, plain texels' },
            ...fitting.map((kind) => ({ value: kind, word: BLOCK_WORDS[kind] })),
          ]}
          onChange={(next) => onChange({ block: next === '' ? null : (next as BlockKind) })}
        />
      </label>
      {block && (
        <label className={ROW}>
          <span className="text-ink-soft">Quality</span>
          <Choice
            label={`Quality of ${map}`}
            value={quality}
            options={BLOCK_QUALITIES.map((value) => ({ value, word: QUALITY_WORDS[value] }))}
            onChange={(next) => onChange({ quality: next as BlockQuality })}
          />
        </label>
      )}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-accent"
          checked={mips}
          onChange={(event) => onChange({ mips: event.target.checked })}
        />
        With its mips
      </label>
      {mips && holdsRoughness && (
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="accent-accent"
            checked={roughens}
            onChange={(event) => onChange({ roughens: event.target.checked })}
          />
          Mips are rougher where normals lose detail
        </label>
      )}
    </>
  )
}

/** What a file is called and how it is written. */
export function FileEditor({ file }: { file: FilePlan }) {
  const channels = useChannels()
  const { view } = useMaps()
  const notice = usePackings((state) => state.notice)
  const edit = useEditFiles()
  const { map, format, bits, transfer } = file
  const form = (change: Parameters<typeof setForm>[2]): void =>
    edit(`Format of ${map}`, (now) => setForm(now, map, change, channels))
  return (
    <div className="flex flex-col gap-2">
      <MapName key={map} map={map} />
      <label className={ROW}>
        <span className="text-ink-soft">Format</span>
        <Choice
          label={`Format of ${map}`}
          value={format}
          options={writtenFormats.map(({ name, title, lossy }) => ({
            value: name,
            word: `${title}${lossy ? ' (changes values)' : ''}`,
          }))}
          onChange={(next) => form({ format: next })}
        />
      </label>
      <label className={ROW}>
        <span className="text-ink-soft">Bits</span>
        <Choice
          label={`Bits of ${map}`}
          value={String(bits)}
          options={writtenFormat(format).write.depths.map((one) => ({ value: String(one.bits), word: one.title }))}
          onChange={(next) => form({ bits: Number(next) as FilePlan['bits'] })}
        />
      </label>
      {!holdsFloats({ format, bits }) && (
        <label className={ROW}>
          <span className="text-ink-soft">Encoding</span>
          <Choice
            label={`Encoding of ${map}`}
            value={transfer}
            options={[
              { value: 'srgb', word: 'sRGB, for colour' },
              { value: 'raw', word: 'raw, for data' },
            ]}
            onChange={(next) => form({ transfer: next as FilePlan['transfer'] })}
          />
        </label>
      )}
      <Blocks file={file} onChange={form} />
      {notice && (
        <p role="status" className="text-ink">
          ▲ {notice}
        </p>
      )}
      <Button
        variant="quiet"
        className="self-start"
        onClick={() => {
          view.setState({ editing: false })
          edit(`Delete file ${map}`, (now) => removeFile(now, map))
        }}
      >
        <Trash2 size={14} aria-hidden /> Delete the file
      </Button>
    </div>
  )
}
