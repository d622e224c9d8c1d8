import { X } from 'lucide-react'
import type { Frames } from '#core/texture/packing'
import { Choice } from '../../ui/choice'
import { ToolButton } from '../../ui/tool-button'
import { useDocument } from '../../session/material'
import { useMaps, usePackings } from './maps'

/** Frames across and down: what usual sizes are whole multiples of. */
const COUNTS = ['1', '2', '4', '8', '16']

export const STANDARD_FRAMES: Frames = { columns: 4, rows: 4, dial: 'Time', loops: true }

/** How a packing with frames plays them: how many, which dial goes from end to end, and whether that is a round. */
export function FramesRow() {
  const { packings } = useMaps()
  const frames = usePackings((state) => state.packing.frames)
  const { dials } = useDocument()
  if (!frames) return null
  const set = (change: Partial<Frames>): void =>
    packings.edit('Frames', (packing) => ({ ...packing, frames: { ...frames, ...change } }))
  const { columns, rows, dial, loops } = frames
  const numbers = dials.filter(({ kind, shared }) => (kind === 'number' || kind === 'whole') && shared === undefined)
  const now = numbers.find(({ id, label }) => id === dial || label.toLowerCase() === dial.toLowerCase())
  return (
    <div className="flex shrink-0 flex-wrap items-center gap-x-2 gap-y-1 border-b border-rule px-3 py-1.5">
      <span className="text-ink-soft">Frames</span>
      <Choice label="Frames across" value={String(columns)} options={COUNTS} onChange={(n) => set({ columns: +n })} />
      <span aria-hidden>×</span>
      <Choice label="Frames down" value={String(rows)} options={COUNTS} onChange={(n) => set({ rows: +n })} />
      <span className="text-ink-soft">turning</span>
      <Choice
        label="Dial that frames turn"
        value={now ? now.label : dial}
        options={[
          ...(now ? [] : [{ value: dial, word: `▲ ${dial}, not in this material` }]),
          ...numbers.map(({ label }) => ({ value: label, word: label })),
        ]}
        onChange={(label) => set({ dial: label })}
        className="max-w-56"
      />
      <label
        className="flex items-center gap-1.5"
        title="The end of the dial is its beginning: the last frame stands a step before it"
      >
        <input type="checkbox" checked={loops} onChange={({ target }) => set({ loops: target.checked })} />
        Goes round
      </label>
      <ToolButton
        icon={X}
        word="One picture instead of frames"
        onClick={() => packings.edit('No frames', ({ frames: _, ...packing }) => packing)}
      />
    </div>
  )
}
