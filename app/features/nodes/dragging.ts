import type { Wire } from './node-graph'

/** Points that a wire is looked at, from end to end. */
const POINTS = 48
/** How much of a card, from its middle, must lie on a wire that it is dropped into. */
const MIDDLE = 0.6

interface Box {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
}

/** Whether one of the points lies in the middle of a box. */
export function crossesMiddle({ x, y, width, height }: Box, points: readonly { x: number; y: number }[]): boolean {
  const [left, top] = [x + (width * (1 - MIDDLE)) / 2, y + (height * (1 - MIDDLE)) / 2]
  return points.some((p) => p.x >= left && p.x <= left + width * MIDDLE && p.y >= top && p.y <= top + height * MIDDLE)
}

/** The wire, as it is drawn in `frame`, that runs through the middle of a card; null where none does. */
export function wireUnder(frame: HTMLElement, box: Box, wires: readonly Wire[]): Wire | null {
  for (const wire of wires) {
    const path = frame.querySelector<SVGPathElement>(
      `.react-flow__edge[data-id="${CSS.escape(wire.id)}"] .react-flow__edge-path`,
    )
    if (!path) continue
    const length = path.getTotalLength()
    const points = Array.from({ length: POINTS + 1 }, (_, i) => path.getPointAtLength((length * i) / POINTS))
    if (crossesMiddle(box, points)) return wire
  }
  return null
}

/** Where in the window an event of a mouse or a finger is. */
export function pointOf(event: MouseEvent | TouchEvent): readonly [number, number] {
  const { clientX, clientY } = 'changedTouches' in event ? event.changedTouches[0]! : event
  return [clientX, clientY]
}

/** A cell or mask of the sheet at a point of the window: what lies there, and the element to mark. */
export function sheetCellAt(x: number, y: number): { row: string; column: string; element: HTMLElement } | null {
  const element = window.document.elementFromPoint(x, y)?.closest<HTMLElement>('[role=grid] [data-at]')
  const [row, column] = element?.dataset.at?.split('/') ?? []
  if (!element || row === undefined || column === undefined || row === 'head' || column === 'layer') return null
  return { row, column, element }
}
