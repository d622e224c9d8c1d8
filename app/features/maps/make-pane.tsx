import { engineMemory } from '#core/texture/engine-memory'
import { useState } from 'react'
import { Link } from 'react-router'
import { useStore } from 'zustand'
import { canSharpen, sharpenOf, withSharpening } from '#core/document/sharpening'
import type { BakeRun } from '../../contracts/run'
import { Button } from '../../ui/button'
import { Choice, Segments } from '../../ui/choice'
import { NumberField } from '../../ui/number-field'
import { bytesInWords, counted, secondsInWords } from '../../ui/words'
import { useUndialled, useMaterial, usePlacement } from '../../session/material'
import { partInWords, shownPart } from '../../session/placement'
import { DeliveredWindow } from './delivered-window'
import { useDelivering } from './deliveries-context'
import type { MakeSettings } from './maps'
import { useChannels, useMaps, useMapsView, usePackings } from './maps'
import { useNames } from './names'
import { OwnPane } from './own-pane'
import { useFiles, useSizeFor } from './files'

const SIZES = [256, 512, 1024, 2048, 4096, 8192] as const

/** Size, dithering, sharpening; what it will take; and the button that begins it. */
export function MakePane() {
  const { view } = useMaps()
  const settings = useMapsView((one) => one.settings)
  const sizeAt = useSizeFor()
  const set = (change: Partial<MakeSettings>): void => view.setState({ settings: { ...settings, ...change } })
  const { width, dither, sharpen, own } = settings
  const [looking, setLooking] = useState(false)
  const size = sizeAt(width)
  return (
    <div className="flex flex-col gap-3 p-3">
      <div className="grid grid-cols-[7.5rem_1fr] items-center gap-2">
        <span className="text-ink-soft">Size</span>
        <span className="flex">
          <Segments
            label="Size"
            value={SIZES.some((one) => one === width) ? String(width) : ''}
            options={SIZES.map((one) => ({ value: String(one), word: String(one) }))}
            onChange={(next) => set({ width: Number(next) })}
          />
        </span>
      </div>
      {typeof size === 'string' && <p role="alert">■ {size}</p>}
      <Sharpening of={sharpen} onChange={(next) => set({ sharpen: next })} />
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-accent"
          checked={dither}
          onChange={(event) => set({ dither: event.target.checked })}
        />
        Dither 8-bit files, so that soft slopes do not band
      </label>
      <OwnPane own={own} onChange={(next) => set({ own: next })} />
      <Padding />
      <Takes />
      <span className="flex gap-2">
        <MakeButton />
        <MakeVariations />
        <Button
          title="A part of each channel, a texel a pixel, with and without sharpening"
          disabled={typeof size === 'string'}
          onClick={() => setLooking(true)}
        >
          Look at it at {width}
        </Button>
      </span>
      {looking && <DeliveredWindow onClose={() => setLooking(false)} />}
    </div>
  )
}

/** What lies beyond the borders of what is made; of a part, which it is, and where all of its model is made. */
function Padding() {
  const { id } = useMaterial()
  const { domain } = useUndialled()
  const shown = shownPart(
    usePlacement((one) => one),
    id,
  )
  if (domain.kind === 'tile')
    return (
      <p className="text-ink-soft">
        Padding: none is needed. A tile goes on over its borders, so every texel around it is its own.
      </p>
    )
  return (
    <>
      <p className="text-ink-soft">
        Padding: all that lies beyond islands is filled from the nearest, by exact distance.
      </p>
      {shown && (
        <p className="text-ink-soft">
          For {partInWords(shown.part)}, with this material on all of it.{' '}
          {shown.part.onIds.length > 0 && 'Several materials lie on IDs of it. '}
          <Link to={`/models/${shown.model.id}?tab=materials`} className="text-accent-ink underline">
            All parts of {shown.model.name}
          </Link>{' '}
          are made on its own page, with materials on IDs and shared files.
        </p>
      )}
    </>
  )
}

/** How much each channel is sharpened: base colour, and any other that is chosen. */
function Sharpening({ of, onChange }: { of: MakeSettings['sharpen']; onChange(of: MakeSettings['sharpen']): void }) {
  const channels = useChannels()
  const able = channels.filter(canSharpen)
  const [more, setMore] = useState<readonly string[]>([])
  const shown = able.filter((channel) => channel.sharpens || more.includes(channel.id) || sharpenOf(channel, of) > 0)
  const others = able.filter((channel) => !shown.includes(channel))
  return (
    <>
      {shown.map((channel) => (
        <NumberField
          key={channel.id}
          label={`Sharpen ${(channel.short ?? channel.title).toLowerCase()}`}
          help="Against its neighbours, at the size it is made: a bake softens. About half is usual for base colour."
          min={0}
          max={1}
          standard={0}
          value={sharpenOf(channel, of)}
          onDrag={(next) => onChange(withSharpening(channels, of, channel.id, next))}
          onDrop={() => {}}
        />
      ))}
      {others.length > 0 && (
        <Choice
          label="Sharpen another channel"
          value=""
          options={[
            { value: '', word: 'Sharpen another channel …' },
            ...others.map(({ id, title }) => ({ value: id, word: title })),
          ]}
          onChange={(id) => setMore([...more, id])}
          className="self-start"
        />
      )}
    </>
  )
}

/** What the set will take in a game engine, and how long it will take to make. */
function Takes() {
  const { resolved } = useFiles()
  const { width } = useMapsView((one) => one.settings)
  const { runs } = useDelivering()
  const size = useSizeFor()(width)
  if (!resolved || typeof size === 'string') return null
  const each = resolved.map((file) => engineMemory(file, size.width, size.height))
  const sum = (of: (one: (typeof each)[number]) => number): string =>
    bytesInWords(each.reduce((total, one) => total + of(one), 0))
  const seconds = secondsLikely(runs, width)
  return (
    <p role="status" aria-label="What it takes" className="text-ink-soft">
      {counted(each.length, 'file')} of {size.width} × {size.height}. In an engine, with mips:{' '}
      {sum(({ plain }) => plain)}, or {sum(({ plain, blocks }) => blocks ?? plain)} compressed into blocks.
      {seconds !== null && ` About ${secondsInWords(seconds)} to make, going by the last one.`}
    </p>
  )
}

/** How long a size takes, going by the last bake of the material that was done; null where there is none. */
export function secondsLikely(runs: readonly BakeRun[], width: number): number | null {
  const last = runs.find(({ state, startedAt, endedAt }) => state === 'done' && startedAt && endedAt)
  if (!last) return null
  const took = (Date.parse(last.endedAt!) - Date.parse(last.startedAt!)) / 1000
  return took * (width / last.request.width) ** 2
}

/** Makes the files of what is saved at a width; `refusal` says why it cannot be now. */
export function useMake(): {
  make(width: number, variations?: readonly string[]): void
  refusal(width: number): string | null
} {
  const { id, control, placement } = useMaterial()
  const { packings, view } = useMaps()
  const { files, problem } = useFiles()
  const { problem: naming, clashing } = useNames()
  const packing = usePackings((state) => state.packing)
  const { send } = useDelivering()
  const settings = useMapsView((one) => one.settings)
  const sizeAt = useSizeFor()
  const save = useStore(control.store, (editing) => editing.save)
  const refusal = (width: number): string | null => {
    if (files.length === 0) return 'The packing has no files.'
    const size = sizeAt(width)
    return (
      problem ??
      naming ??
      (clashing.size > 0 ? 'Several files would be called the same; they are marked in the sheet.' : null) ??
      (typeof size === 'string' ? size : save !== 'saved' ? 'The material is not saved yet.' : null)
    )
  }
  return {
    refusal,
    make(width, variations = []) {
      const why = refusal(width)
      packings.tell(why)
      view.setState({ tab: 'make', settings: { ...settings, width } })
      if (why !== null) return
      const shown = shownPart(placement.store.getState(), id)
      const { udim } = shown?.part ?? {}
      const on = shown
        ? { model: shown.model.id, part: shown.part.part, ...(udim === undefined ? {} : { udim }) }
        : undefined
      send({ intent: 'make', packing, on, revision: control.store.getState().head, ...settings, width, variations })
    },
  }
}

/** Begins a bake of each variation of the dials, as deliveries of their own. */
function MakeVariations() {
  const { make, refusal } = useMake()
  const { width } = useMapsView((one) => one.settings)
  const { presets } = useUndialled()
  const ids = Object.keys(presets)
  if (ids.length === 0) return null
  const why = refusal(width)
  return (
    <Button
      disabled={why !== null}
      title={
        why ??
        `A delivery each: ${Object.values(presets)
          .map(({ name }) => name)
          .join(', ')}`
      }
      onClick={() => make(width, ids)}
    >
      Make {counted(ids.length, 'variation')}
    </Button>
  )
}

/** Begins a bake of what is saved. */
export function MakeButton() {
  const { files } = useFiles()
  const { make, refusal } = useMake()
  const { width } = useMapsView((one) => one.settings)
  const why = refusal(width)
  return (
    <Button variant="main" disabled={why !== null} title={why ?? undefined} onClick={() => make(width)}>
      Make {counted(files.length, 'file')} at {width}
    </Button>
  )
}
