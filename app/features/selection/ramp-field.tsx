import { Minus, Plus } from 'lucide-react'
import { useRef, useState } from 'react'
import type { Stop } from '#core/graph/parameters'
import { hexByte, hexToEncoded } from '#core/colour/srgb'
import { ColourBox } from '../../ui/colour-field'
import { DragHandle } from '../../ui/drag-handle'
import { NumberBox } from '../../ui/number-box'
import { FieldLabel } from '../../ui/number-field'
import { ToolButton } from '../../ui/tool-button'
import { DialMark } from './dial-mark'
import { useMaterial } from '../../session/material'
import { useApplied } from '../../session/material'
import type { Bound } from './target'
import { useTarget } from './target'

const MIX: Record<string, string> = { oklab: 'in oklab', linear: 'in srgb-linear', srgb: 'in srgb' }

/** A ramp of colours with stops that are dragged along it. A press on the ramp adds one. */
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
  const bar = useRef<HTMLDivElement>(null)
  const [selected, setSelected] = useState(0)
  const params = useApplied(({ nodes }) => nodes[node]?.params)
  const mix = MIX[String(params?.mix ?? 'oklab')] ?? 'in oklab'
  const at = Math.min(selected, stops.length - 1)
  const shareAt = (x: number): number => {
    const { left, width } = bar.current!.getBoundingClientRect()
    return Math.round(Math.min(1, Math.max(0, (x - left) / width)) * 1000) / 1000
  }
  /** Stops in order after one moved; the chosen one stays chosen. */
  const withMoved = (index: number, place: number): Stop[] => {
    const stop = { ...stops[index]!, at: place }
    const next = stops.map((one, i) => (i === index ? stop : one)).sort((a, b) => a.at - b.at)
    setSelected(next.indexOf(stop))
    return next
  }
  const add = (place: number): void => {
    if (stops.length >= 64) return
    const stop = { at: place, colour: colourAt(stops, place) }
    const next = [...stops, stop].sort((a, b) => a.at - b.at)
    setSelected(next.indexOf(stop))
    bound.set(next)
  }
  const remove = (index: number): void => {
    if (stops.length === 1) return
    bound.set(stops.filter((_, i) => i !== index))
    setSelected(Math.max(0, index - 1))
  }
  const gradient = `linear-gradient(to right ${mix}, ${stops.map(({ at, colour }) => `${colour} ${at * 100}%`).join(', ')}${stops.length === 1 ? `, ${stops[0]!.colour}` : ''})`
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
        <div
          ref={bar}
          title="Press to add a stop"
          onPointerDown={(event) => event.target === event.currentTarget && add(shareAt(event.clientX))}
          className="relative h-7 rounded border border-rule-strong"
          style={{ backgroundImage: gradient }}
        >
          {stops.map((stop, index) => (
            <DragHandle
              key={index}
              label={`Stop ${index + 1} of ${stops.length}`}
              value={stop.at}
              text={`${stop.colour} at ${stop.at}`}
              onChoose={() => setSelected(index)}
              onDrag={(event) => bound.drag(withMoved(at, shareAt(event.clientX)))}
              onDrop={bound.drop}
              onStep={(right) => {
                if (right === 0) return false
                const place = Math.min(1, Math.max(0, Math.round((stop.at + right) * 1000) / 1000))
                bound.set(stops.map((one, i) => (i === index ? { ...one, at: between(stops, index, place) } : one)))
                return true
              }}
              onRemove={() => remove(index)}
              className={`top-4 size-4 -translate-x-1/2 cursor-ew-resize ${
                index === at ? 'border-accent ring-2 ring-raised' : 'border-raised ring-1 ring-ink'
              }`}
              style={{ left: `${stop.at * 100}%`, background: stop.colour }}
            />
          ))}
        </div>
      </div>
      <StopEditor
        key={at}
        node={node}
        index={at}
        stops={stops}
        onMove={(place) => bound.drag(withMoved(at, place))}
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
  const { view } = useMaterial()
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
        onPick={(take) => view.setState({ picking: take, notice: 'Press on the stage to take its base colour there.' })}
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
