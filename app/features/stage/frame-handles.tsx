import { useEffect, useRef } from 'react'
import { useActions } from '../../session/material'
import type { StageRenderer } from './stage-renderer.client'

export interface Point {
  readonly x: number
  readonly y: number
}

/** Places of a picture's frame from its middle, in its widths and heights: corners, and how far above its upper edge what turns it is. */
export const CORNERS = [
  [-0.5, -0.5],
  [0.5, -0.5],
  [0.5, 0.5],
  [-0.5, 0.5],
] as const
export const STEM = 0.3

export type FrameHandle = 'body' | 'corner' | 'turn'

interface FrameProps {
  readonly renderer: StageRenderer
  readonly label: string
  /** Where it is on the stage: its middle, its corners, the middle of its upper edge, and what turns it; null where it is not seen. */
  pointsOf(): readonly Point[] | null
  /** What it becomes as the pointer goes from one place of the stage to another, by the handle that it holds. */
  become(handle: FrameHandle, from: Point, to: Point): void
  /** A key was pressed; false where it means nothing. */
  onKey(event: React.KeyboardEvent): boolean
  readonly tools: React.ReactNode
}

/** A frame on the stage with handles that move, scale and turn it, by the newest frame. */
export function FrameHandles({ renderer, label, pointsOf, become, onKey, tools }: FrameProps) {
  const actions = useActions()
  const svg = useRef<SVGSVGElement>(null)
  const bar = useRef<HTMLSpanElement>(null)
  useEffect(() => {
    const show = (): void => {
      const found = pointsOf()
      const frame = svg.current
      if (!frame) return
      frame.style.visibility = found ? 'visible' : 'hidden'
      if (bar.current) bar.current.style.visibility = found ? 'visible' : 'hidden'
      if (!found) return
      const [, a, b, c, d, top, turn] = found as [Point, Point, Point, Point, Point, Point, Point]
      const outline = [a, b, c, d].map(({ x, y }) => `${x},${y}`).join(' ')
      frame.querySelectorAll('polygon').forEach((one) => one.setAttribute('points', outline))
      frame.querySelectorAll('line').forEach((one) => setEnds(one, top, turn))
      frame.querySelectorAll<SVGElement>('[data-corner]').forEach((one, i) => moveTo(one, [a, b, c, d][i]!))
      moveTo(frame.querySelector<SVGElement>('[data-turn]')!, turn)
      if (bar.current) bar.current.style.transform = `translate(${turn.x + 10}px, ${turn.y - 12}px)`
    }
    show()
    return renderer.afterFrames(show)
  }, [renderer, pointsOf])

  /** Follows the pointer from a press until it is let go. */
  const follow = (event: React.PointerEvent<SVGElement>, handle: FrameHandle): void => {
    if (event.button !== 0) return
    event.stopPropagation()
    const target = event.currentTarget
    target.setPointerCapture(event.pointerId)
    svg.current!.focus()
    const { left, top } = svg.current!.getBoundingClientRect()
    const here = (one: { clientX: number; clientY: number }): Point => ({ x: one.clientX - left, y: one.clientY - top })
    const from = here(event)
    const move = (next: PointerEvent): void => become(handle, from, here(next))
    const end = (): void => {
      target.removeEventListener('pointermove', move)
      actions.drop()
    }
    target.addEventListener('pointermove', move)
    target.addEventListener('pointerup', end, { once: true })
    target.addEventListener('pointercancel', end, { once: true })
  }
  return (
    <>
      <svg
        ref={svg}
        role="group"
        aria-label={label}
        tabIndex={0}
        onKeyDown={(event) => {
          if (!onKey(event)) return
          event.preventDefault()
          event.stopPropagation()
        }}
        onKeyUp={actions.drop}
        onBlur={actions.drop}
        className="pointer-events-none absolute inset-0 size-full overflow-hidden focus-visible:-outline-offset-2"
        style={{ visibility: 'hidden' }}
      >
        <line stroke="black" strokeWidth={3} />
        <line stroke="white" strokeWidth={1} />
        <polygon fill="none" stroke="black" strokeWidth={3} />
        <polygon
          fill="transparent"
          stroke="white"
          strokeWidth={1}
          pointerEvents="all"
          className="cursor-move touch-none"
          onPointerDown={(event) => follow(event, 'body')}
        />
        {CORNERS.map((_, i) => (
          <rect
            key={i}
            data-corner={i}
            x={-5}
            y={-5}
            width={10}
            height={10}
            fill="white"
            stroke="black"
            pointerEvents="all"
            className="cursor-nwse-resize touch-none"
            onPointerDown={(event) => follow(event, 'corner')}
          />
        ))}
        <circle
          data-turn
          r={6}
          fill="white"
          stroke="black"
          pointerEvents="all"
          className="cursor-grab touch-none"
          onPointerDown={(event) => follow(event, 'turn')}
        />
      </svg>
      <span ref={bar} className="absolute top-0 left-0 rounded bg-raised" style={{ visibility: 'hidden' }}>
        {tools}
      </span>
    </>
  )
}

export const rounded = (v: number): number => Math.round(v * 1e5) / 1e5
/** A turn within half a turn to either side. */
export const wrapped = (turn: number): number => turn - Math.round(turn)
const moveTo = (element: SVGElement, { x, y }: Point): void => element.setAttribute('transform', `translate(${x} ${y})`)

function setEnds(line: SVGLineElement, from: Point, to: Point): void {
  line.setAttribute('x1', String(from.x))
  line.setAttribute('y1', String(from.y))
  line.setAttribute('x2', String(to.x))
  line.setAttribute('y2', String(to.y))
}
