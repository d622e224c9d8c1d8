import { Minus, Plus } from 'lucide-react'
import { useState } from 'react'
import type { Stop } from '#core/graph/parameters'
import { hexByte, hexToEncoded } from '#core/colour/srgb'
import { ColourBox } from '../../ui/colour-field'
import { HandleArea } from '../../ui/handle-area'
import { NumberBox } from '../../ui/number-box'
import { FieldLabel } from '../../ui/number-field'
import { ToolButton } from '../../ui/tool-button'
import { DialMark } from './dial-mark'
import { useActions, useApplied } from '../../session/material'
import type { Bound } from './target'
import { useTarget } from './target'
import { ValuesBehind } from './values-behind'
import { gradientInCss } from './gradient-in-css'

const MOST = 64
const rounded = (v: number): number => Math.round(Math.min(1, Math.max(0, v)) * 1000) / 1000

/** A ramp of colours with stops that are dragged along it, below the values that come in. A press on the ramp adds one. */
export function RampField({
  label,
  help,
  node,
  stops,
  bound,
}: {
  label: string
  help: string
  node: string
  stops: readonly Stop[]
  bound: Bound
}) {
  const [selected, setSelected] = useState(0)
  const params = useApplied(({ nodes }) => nodes[node]?.params)
  const at = Math.min(selected, stops.length - 1)
  /** Stops in order after one moved, and which of them that is then. */
  const withMoved = (index: number, place: number): { next: Stop[]; index: number } => {
    const stop = { ...stops[index]!, at: rounded(place) }
    const next = stops.map((one, i) => (i === index ? stop : one)).sort((a, b) => a.at - b.at)
    return { next, index: next.indexOf(stop) }
  }
  /** Stops with one more; null where there are enough. */
  const withAdded = (place: number): { next: Stop[]; index: number } | null => {
    if (stops.length >= MOST) return null
    const stop = { at: rounded(place), colour: colourAt(stops, place) }
    const next = [...stops, stop].sort((a, b) => a.at - b.at)
    return { next, index: next.indexOf(stop) }
  }
  const drag = (index: number, place: number): number => {
    const moved = withMoved(index, place)
    bound.drag(moved.next)
    setSelected(moved.index)
    return moved.index
  }
  const add = (place: number): void => {
    const added = withAdded(place)
    if (!added) return
    bound.set(added.next)
    setSelected(added.index)
  }
  const remove = (index: number): void => {
    if (stops.length === 1) return
    bound.set(stops.filter((_, i) => i !== index))
    setSelected(Math.max(0, index - 1))
  }
  return (
    <div className="flex flex-col gap-1.5">
      <div className="flex items-center justify-between">
        <FieldLabel label={label} help={help} />
        <span className="flex">
          <ToolButton icon={Plus} word="Add a stop" onClick={() => add(gapAfter(stops, at))} />
          <ToolButton icon={Minus} word="Take the stop out" disabled={stops.length === 1} onClick={() => remove(at)} />
        </span>
      </div>
      <div className="px-2">
        <ValuesBehind node={node} className="block h-10 w-full" />
        <HandleArea
          title="Press to add a stop and drag it; Delete takes the chosen one out"
          className="h-7 rounded border border-rule-strong"
          style={{ backgroundImage: gradientInCss(stops, params?.mix, params?.steps) }}
          selected={at}
          handles={stops.map((stop, index) => ({
            x: stop.at,
            label: `Stop ${index + 1} of ${stops.length}`,
            value: stop.at,
            text: `${stop.colour} at ${stop.at}`,
            className: `top-4 size-4 -translate-x-1/2 cursor-ew-resize ${
              index === at ? 'border-accent ring-2 ring-raised' : 'border-raised ring-1 ring-ink'
            }`,
            style: { background: stop.colour },
          }))}
          onSelect={setSelected}
          onAdd={({ x }) => {
            const added = withAdded(x)
            if (!added) return null
            bound.drag(added.next)
            return added.index
          }}
          onDrag={(index, { x }) => drag(index, x)}
          onDrop={bound.drop}
          onStep={(index, right) => {
            if (right === 0) return false
            const stop = stops[index]!
            const place = between(stops, index, rounded(stop.at + right))
            bound.set(stops.map((one, i) => (i === index ? { ...one, at: place } : one)))
            return true
          }}
          onRemove={remove}
        />
      </div>
      <StopEditor
        key={at}
        node={node}
        index={at}
        stops={stops}
        onMove={(place) => void drag(at, place)}
        onDrop={bound.drop}
      />
    </div>
  )
}

function StopEditor({
  node,
  index,
  stops,
  onMove,
  onDrop,
}: {
  node: string
  index: number
  stops: readonly Stop[]
  onMove(place: number): void
  onDrop(): void
}) {
  const actions = useActions()
  const stop = stops[index]!
  const target = { node, field: `stops.${index}.colour` }
  const bound = useTarget('Stop colour', target, stops)
  return (
    <div className="group/param mt-1 flex flex-wrap items-center gap-2">
      <span className="text-ink-soft">Stop {index + 1}</span>
      <NumberBox
        label="Place of the stop"
        min={0}
        max={1}
        standard={0.5}
        value={stop.at}
        onDrag={onMove}
        onDrop={onDrop}
        className="w-20"
      />
      <ColourBox
        label="Colour of the stop"
        value={stop.colour}
        standard="#808080"
        onDrag={bound.drag}
        onDrop={bound.drop}
        onPick={actions.pickColour}
      />
      <DialMark
        label={`Colour ${index + 1}`}
        target={target}
        shape={{ kind: 'colour' }}
        value={stop.colour}
        whole={stops}
      />
    </div>
  )
}

/** A place held between a stop's neighbours, so that keys never reorder stops. */
const between = (stops: readonly Stop[], index: number, place: number): number =>
  Math.min(stops[index + 1]?.at ?? 1, Math.max(stops[index - 1]?.at ?? 0, place))

/** The middle between a stop and the next one. */
function gapAfter(stops: readonly Stop[], index: number): number {
  const from = stops[index]!.at
  const to = stops[index + 1]?.at ?? (index > 0 ? stops[index - 1]!.at : 1)
  return Math.round(((from + to) / 2) * 1000) / 1000
}

/** The colour a new stop begins with: between its neighbours, so that the ramp hardly changes. */
function colourAt(stops: readonly Stop[], place: number): string {
  const next = stops.findIndex((stop) => stop.at >= place)
  if (next === 0) return stops[0]!.colour
  if (next < 0) return stops.at(-1)!.colour
  const a = stops[next - 1]!
  const b = stops[next]!
  const ratio = b.at === a.at ? 0 : (place - a.at) / (b.at - a.at)
  const [from, to] = [hexToEncoded(a.colour), hexToEncoded(b.colour)]
  return `#${from.map((v, c) => hexByte(v + (to[c]! - v) * ratio)).join('')}`
}
