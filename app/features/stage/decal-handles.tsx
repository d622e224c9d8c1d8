import { metresOf } from '#core/document/domain'
import { FlipHorizontal2 } from 'lucide-react'
import { useEffect, useMemo, useRef } from 'react'
import type { MaterialDocument } from '#core/document/document'
import { feedersOf } from '#core/document/edits/nodes'
import { setTarget } from '#core/document/edits/dials'
import { findLayer, findPlain } from '#core/document/edits/layers'
import type { Asset } from '../../contracts/asset'
import { useActions, useApplied, useMaterial, useUndialled, useView } from '../../session/material'
import type { Selection } from '../../session/view'
import { nodeTitle } from '../../session/words/source-words'
import { ToolButton } from '../../ui/tool-button'
import type { StageRenderer } from './stage-renderer.client'

/** Where a decal lies: tile widths from the tile's corner, its width, turns counter-clockwise. */
interface Place {
  readonly centre: readonly [number, number]
  readonly size: number
  readonly angle: number
  readonly mirror: boolean
}

const CORNERS = [
  [-0.5, -0.5],
  [0.5, -0.5],
  [0.5, 0.5],
  [-0.5, 0.5],
] as const
/** How far above its upper edge the handle is that turns a decal, as a share of its height. */
const STEM = 0.3
const SMALLEST = 0.005

/** The stencil that is chosen: its node, or a layer, cell or mask that shows it. */
export function chosenStencil(
  document: MaterialDocument,
  selection: Selection | null,
  nodes: readonly string[],
): string | null {
  const isOne = (id: string): boolean => document.nodes[id]?.type === 'stencil'
  const [node] = nodes
  if (node !== undefined) return isOne(node) ? node : null
  if (!selection || !('layer' in selection)) return null
  const layer = findLayer(document, selection.layer)
  const sources = [...(layer?.mask ?? []), ...Object.values(findPlain(document, selection.layer)?.cells ?? {})].flatMap(
    ({ source }) => feedersOf(document, source),
  )
  return [...new Set(sources)].find(isOne) ?? null
}

/** Handles of the chosen decal, on the flat and on the lit stage. */
export function DecalHandles({ renderer }: { renderer: StageRenderer }) {
  const document = useUndialled()
  const selection = useView((view) => view.selection)
  const nodes = useView((view) => view.selectedNodes)
  const id = useMemo(() => chosenStencil(document, selection, nodes), [document, selection, nodes])
  return id === null ? null : <Handles key={id} id={id} renderer={renderer} />
}

const DEFAULTS: Place = { centre: [0.5, 0.5], size: 0.5, angle: 0, mirror: false }

function Handles({ id, renderer }: { id: string; renderer: StageRenderer }) {
  const actions = useActions()
  const { assets } = useMaterial()
  const document = useUndialled()
  const params = useApplied(({ nodes }) => nodes[id]?.params)
  const [across, down] = metresOf(document)
  const aspect = down / across
  const place: Place = { ...DEFAULTS, ...(params as Partial<Place> | undefined) }
  const picture = assets.find((asset: Asset) => params?.image === `sha256:${asset.sha256}`)
  const shape = picture ? picture.height / picture.width : 1
  const svg = useRef<SVGSVGElement>(null)
  const tools = useRef<HTMLSpanElement>(null)
  /** Where everything is, by the newest frame: the middle, the corners, the handle that turns. */
  const points = useRef<{ x: number; y: number }[] | null>(null)
  const title = nodeTitle(document, id)

  const placed = JSON.stringify(place)
  useEffect(() => {
    const { centre, size, angle } = JSON.parse(placed) as Place
    const [cos, sin] = [Math.cos(2 * Math.PI * angle), Math.sin(2 * Math.PI * angle)]
    const at = (right: number, below: number): [number, number] => {
      const [x, y] = [right * size, below * size * shape]
      return [centre[0] + x * cos + y * sin, (centre[1] - x * sin + y * cos) / aspect]
    }
    const show = (): void => {
      const found = renderer.pointsOf([at(0, 0), ...CORNERS.map(([x, y]) => at(x, y)), at(0, -0.5), at(0, -0.5 - STEM)])
      points.current = found
      const frame = svg.current
      if (!frame) return
      frame.style.visibility = found ? 'visible' : 'hidden'
      if (tools.current) tools.current.style.visibility = found ? 'visible' : 'hidden'
      if (!found) return
      const [, a, b, c, d, top, turn] = found as [Point, Point, Point, Point, Point, Point, Point]
      const outline = [a, b, c, d].map(({ x, y }) => `${x},${y}`).join(' ')
      frame.querySelectorAll('polygon').forEach((one) => one.setAttribute('points', outline))
      frame.querySelectorAll('line').forEach((one) => setEnds(one, top, turn))
      frame.querySelectorAll<SVGElement>('[data-corner]').forEach((one, i) => moveTo(one, [a, b, c, d][i]!))
      moveTo(frame.querySelector<SVGElement>('[data-turn]')!, turn)
      if (tools.current) tools.current.style.transform = `translate(${turn.x + 10}px, ${turn.y - 12}px)`
    }
    show()
    return renderer.afterFrames(show)
  }, [renderer, placed, shape, aspect])

  const write = (label: string, next: Partial<Place>): void =>
    actions.drag(`${label} ${title}`, (draft) => {
      const { centre, size, angle } = next
      centre?.forEach((value, i) => setTarget(draft, { node: id, field: `centre.${i}` }, value, centre))
      if (size !== undefined) setTarget(draft, { node: id, field: 'size' }, Math.min(8, Math.max(SMALLEST, size)))
      if (angle !== undefined) setTarget(draft, { node: id, field: 'angle' }, angle)
    })
  const mirror = (): void => actions.setTarget('Mirror', { node: id, field: 'mirror' }, !place.mirror)

  /** What a decal becomes as the pointer goes from one place of the stage to another, by the handle that it holds. */
  const become = (handle: 'body' | 'corner' | 'turn', from: Point, to: Point): void => {
    if (handle === 'body') {
      const [a, b] = [renderer.uvAt(from.x, from.y), renderer.uvAt(to.x, to.y)]
      if (!a || !b) return
      const [u, v] = [wrapped(b.u - a.u), wrapped(b.v - a.v)]
      return write('Move', { centre: [rounded(place.centre[0] + u), rounded(place.centre[1] + v * aspect)] })
    }
    const { x, y } = points.current?.[0] ?? from
    if (handle === 'corner') {
      const ratio = Math.hypot(to.x - x, to.y - y) / Math.max(1, Math.hypot(from.x - x, from.y - y))
      return write('Scale', { size: rounded(place.size * ratio) })
    }
    const turned = Math.atan2(to.y - y, to.x - x) - Math.atan2(from.y - y, from.x - x)
    write('Turn', { angle: rounded(wrapped(place.angle - turned / (2 * Math.PI))) })
  }
  /** Follows the pointer from a press until it is let go. */
  const follow = (event: React.PointerEvent<SVGElement>, handle: Parameters<typeof become>[0]): void => {
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

  const keys = (event: React.KeyboardEvent): void => {
    const by = event.shiftKey ? 0.05 : 0.005
    const { key } = event
    const [x, y] = place.centre
    const move: Record<string, [number, number]> = {
      ArrowLeft: [-by, 0],
      ArrowRight: [by, 0],
      ArrowUp: [0, -by],
      ArrowDown: [0, by],
    }
    if (move[key]) write('Move', { centre: [rounded(x + move[key][0]), rounded(y + move[key][1])] })
    else if (key === '+' || key === '-') write('Scale', { size: rounded(place.size * (key === '+' ? 1.02 : 1 / 1.02)) })
    else if (key === '[' || key === ']')
      write('Turn', { angle: rounded(wrapped(place.angle + (key === '[' ? 1 : -1) / 72)) })
    else if (key === 'm') mirror()
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  return (
    <>
      <svg
        ref={svg}
        role="group"
        aria-label={`Decal ${title}: arrows move, + and − scale, [ and ] turn, M mirrors`}
        tabIndex={0}
        onKeyDown={keys}
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
      <span ref={tools} className="absolute top-0 left-0 rounded bg-raised" style={{ visibility: 'hidden' }}>
        <ToolButton icon={FlipHorizontal2} word={`Mirror ${title}`} pressed={place.mirror} onClick={mirror} />
      </span>
    </>
  )
}

interface Point {
  readonly x: number
  readonly y: number
}

const rounded = (v: number): number => Math.round(v * 1e5) / 1e5
const wrapped = (turn: number): number => turn - Math.round(turn)
const moveTo = (element: SVGElement, { x, y }: Point): void => element.setAttribute('transform', `translate(${x} ${y})`)

function setEnds(line: SVGLineElement, from: Point, to: Point): void {
  line.setAttribute('x1', String(from.x))
  line.setAttribute('y1', String(from.y))
  line.setAttribute('x2', String(to.x))
  line.setAttribute('y2', String(to.y))
}
