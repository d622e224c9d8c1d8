import { Minus, Plus } from 'lucide-react'
import { useState } from 'react'
import type { CurvePoint } from '#core/graph/parameters'
import { monotoneCurve } from '#core/kernels/curve'
import { HandleArea } from '../../ui/handle-area'
import { NumberBox } from '../../ui/number-box'
import { FieldLabel } from '../../ui/number-field'
import { ToolButton } from '../../ui/tool-button'
import type { Bound } from './target'
import { ValuesBehind } from './values-behind'

const MOST = 32
/** The least step between two points' places. */
const APART = 0.001
const rounded = (v: number): number => Math.round(Math.min(1, Math.max(0, v)) * 1000) / 1000

/** A curve whose points are dragged over a square, before the values that come in; a press on the square adds one. */
export function CurveField({
  label,
  help,
  node,
  points,
  bound,
}: {
  label: string
  help: string
  /** Whose parameter it is. */
  node: string
  points: readonly CurvePoint[]
  bound: Bound
}) {
  const [selected, setSelected] = useState(0)
  const at = Math.min(selected, points.length - 1)
  const curve = monotoneCurve(points)
  const line = Array.from({ length: 65 }, (_, i) => `${i / 64},${1 - curve(i / 64)}`).join(' ')
  /** A point held between its neighbours, so that dragging never reorders. */
  const withMoved = (index: number, { at, to }: CurvePoint): CurvePoint[] => {
    const low = index === 0 ? 0 : points[index - 1]!.at + APART
    const high = index === points.length - 1 ? 1 : points[index + 1]!.at - APART
    const place = rounded(Math.min(high, Math.max(low, at)))
    return points.map((one, i) => (i === index ? { at: place, to: rounded(to) } : one))
  }
  /** The points with one more, and its place among them; null where there are enough, or one stands there. */
  const withAdded = (point: CurvePoint): { next: CurvePoint[]; index: number } | null => {
    if (points.length >= MOST || points.some((one) => Math.abs(one.at - point.at) < APART)) return null
    const next = [...points, point].sort((a, b) => a.at - b.at)
    return { next, index: next.indexOf(point) }
  }
  const remove = (index: number): void => {
    if (points.length <= 2) return
    bound.set(points.filter((_, i) => i !== index))
    setSelected(Math.max(0, index - 1))
  }
  const addAfter = (): void => {
    const from = at === points.length - 1 ? at - 1 : at
    const place = rounded((points[from]!.at + points[from + 1]!.at) / 2)
    const added = withAdded({ at: place, to: rounded(curve(place)) })
    if (!added) return
    bound.set(added.next)
    setSelected(added.index)
  }
  const point = points[at]!
  return (
    <div className="flex flex-col gap-1.5">
      <div className="flex items-center justify-between">
        <FieldLabel label={label} help={help} />
        <span className="flex">
          <ToolButton icon={Plus} word="Add a point" disabled={points.length >= MOST} onClick={addAfter} />
          <ToolButton icon={Minus} word="Delete point" disabled={points.length <= 2} onClick={() => remove(at)} />
        </span>
      </div>
      <HandleArea
        title="Press to add a point and drag it; Delete takes the chosen one out"
        className="m-2 aspect-square max-w-72 rounded border border-rule-strong bg-raised"
        selected={at}
        handles={points.map((one, index) => ({
          x: one.at,
          y: one.to,
          label: `Point ${index + 1} of ${points.length}`,
          value: one.to,
          text: `${one.at} becomes ${one.to}`,
          className: `size-3.5 -translate-x-1/2 -translate-y-1/2 cursor-move border-raised ${
            index === at ? 'bg-accent ring-1 ring-accent' : 'bg-ink ring-1 ring-ink'
          }`,
        }))}
        onSelect={setSelected}
        onAdd={({ x, y }) => {
          const added = withAdded({ at: rounded(x), to: rounded(y) })
          if (!added) return null
          bound.drag(added.next)
          return added.index
        }}
        onDrag={(index, { x, y }) => {
          bound.drag(withMoved(index, { at: x, to: y }))
          return index
        }}
        onDrop={bound.drop}
        onStep={(index, right, up) => {
          const one = points[index]!
          bound.set(withMoved(index, { at: one.at + right, to: one.to + up }))
          return true
        }}
        onRemove={remove}
      >
        <ValuesBehind node={node} className="absolute inset-0 size-full" />
        <svg
          viewBox="0 0 1 1"
          preserveAspectRatio="none"
          className="pointer-events-none absolute inset-0 size-full"
          aria-hidden
        >
          <path
            d="M0 .25H1M0 .5H1M0 .75H1M.25 0V1M.5 0V1M.75 0V1"
            className="stroke-rule"
            vectorEffect="non-scaling-stroke"
          />
          <polyline
            points={line}
            fill="none"
            className="stroke-ink"
            strokeWidth="1.5"
            vectorEffect="non-scaling-stroke"
          />
        </svg>
      </HandleArea>
      <div className="flex flex-wrap items-center gap-2">
        <span className="text-ink-soft">Point {at + 1}</span>
        <NumberBox
          label="Value that comes in"
          min={0}
          max={1}
          standard={0.5}
          value={point.at}
          onDrag={(next) => bound.drag(withMoved(at, { ...point, at: next }))}
          onDrop={bound.drop}
          className="w-20"
        />
        <span className="text-ink-soft">becomes</span>
        <NumberBox
          label="What it becomes"
          min={0}
          max={1}
          standard={0.5}
          value={point.to}
          onDrag={(next) => bound.drag(withMoved(at, { ...point, to: next }))}
          onDrop={bound.drop}
          className="w-20"
        />
      </div>
    </div>
  )
}
