import { Crosshair } from 'lucide-react'
import { useCallback, useMemo, useRef, useState } from 'react'
import { setTarget } from '#core/document/edits/dials'
import type { ProjectorPlace, Three } from '#core/kernels/projector'
import { projectorAxes } from '#core/kernels/projector'
import { registry } from '#core/nodes/registry.generated'
import { useActions, useApplied, useUndialled, useView } from '../../session/material'
import { nodeTitle } from '../../session/words/source-words'
import { ToolButton } from '../../ui/tool-button'
import { chosenOfType } from './decal-handles'
import type { FrameHandle, Point } from './frame-handles'
import { CORNERS, FrameHandles, STEM, rounded, wrapped } from './frame-handles'
import type { StageRenderer } from './stage-renderer.client'

/** What handles change of a projection: where it stands, and the width of its picture in metres. */
interface Place extends ProjectorPlace {
  readonly size: number
}
const FIELDS = ['size', 'x', 'y', 'z', 'heading', 'tilt', 'turn'] as const

/** Of what a place is where nothing is set. */
const DEFAULTS = Object.fromEntries(
  FIELDS.map((name) => [name, registry.get('project')!.params[name]!.default]),
) as unknown as Place

const SMALLEST = 0.0001
/** Cosine from which a plane is seen so flatly that what is moved goes along the screen. */
const EDGE_ON = 0.3

const plus = (place: Three, ...steps: readonly (readonly [Three, number])[]): Three =>
  [0, 1, 2].map((k) => steps.reduce((sum, [along, by]) => sum + along[k]! * by, place[k]!)) as unknown as Three
const dot = (a: Three, b: Three): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]

/** Handles of the chosen projection on a part, in space: a frame as large as its picture. */
export function ProjectionHandles({ renderer }: { renderer: StageRenderer }) {
  const document = useUndialled()
  const selection = useView((view) => view.selection)
  const nodes = useView((view) => view.selectedNodes)
  const id = useMemo(() => chosenOfType('project', document, selection, nodes), [document, selection, nodes])
  return id === null ? null : <Handles key={id} id={id} renderer={renderer} />
}

function Handles({ id, renderer }: { id: string; renderer: StageRenderer }) {
  const actions = useActions()
  const document = useUndialled()
  const params = useApplied(({ nodes }) => nodes[id]?.params)
  const place: Place = { ...DEFAULTS, ...(params as Partial<Place> | undefined) }
  const [aiming, setAiming] = useState(false)
  const middle = useRef<Point | null>(null)
  const title = nodeTitle(document, id)
  const placed = JSON.stringify(Object.fromEntries(FIELDS.map((name) => [name, place[name]])))

  const pointsOf = useCallback((): readonly Point[] | null => {
    const { size, x, y, z, ...turns } = JSON.parse(placed) as Place
    const { right, up } = projectorAxes(turns)
    const at = (across: number, down: number): Three => plus([x, y, z], [right, across * size], [up, -down * size])
    const found = renderer.places.modelPoints([
      at(0, 0),
      ...CORNERS.map(([u, v]) => at(u, v)),
      at(0, -0.5),
      at(0, -0.5 - STEM),
    ])
    middle.current = found?.[0] ?? null
    return found
  }, [renderer, placed])

  const write = (label: string, next: Partial<Place>): void =>
    actions.drag(`${label} ${title}`, (draft) => {
      for (const [field, value] of Object.entries(next)) setTarget(draft, { node: id, field }, value)
    })
  const moved = (by: Three): Partial<Place> => ({
    x: rounded(place.x + by[0]),
    y: rounded(place.y + by[1]),
    z: rounded(place.z + by[2]),
  })

  const become = (handle: FrameHandle, from: Point, to: Point): void => {
    if (handle === 'body') {
      // Along the plane of the picture, or along the screen where that is seen from its edge.
      const { out } = projectorAxes(place)
      const eye = renderer.places.towardsEye
      const normal = Math.abs(dot(out, eye)) < EDGE_ON ? eye : out
      const at: Three = [place.x, place.y, place.z]
      const [a, b] = [from, to].map((point) => renderer.places.onPlane(point, at, normal))
      if (a && b) write('Move', moved([b[0] - a[0], b[1] - a[1], b[2] - a[2]]))
      return
    }
    const { x, y } = middle.current ?? from
    if (handle === 'corner') {
      const ratio = Math.hypot(to.x - x, to.y - y) / Math.max(1, Math.hypot(from.x - x, from.y - y))
      return write('Scale', { size: Math.max(SMALLEST, rounded(place.size * ratio)) })
    }
    const turned = Math.atan2(to.y - y, to.x - x) - Math.atan2(from.y - y, from.x - x)
    // Seen from behind it turns the other way round.
    const side = dot(projectorAxes(place).out, renderer.places.towardsEye) < 0 ? -1 : 1
    write('Turn', { turn: rounded(wrapped(place.turn - (side * turned) / (2 * Math.PI))) })
  }

  const onKey = (event: React.KeyboardEvent): boolean => {
    const { key } = event
    const by = place.size * (event.shiftKey ? 0.1 : 0.01)
    const { right, up } = projectorAxes(place)
    const along: Record<string, readonly [Three, number]> = {
      ArrowLeft: [right, -by],
      ArrowRight: [right, by],
      ArrowUp: [up, by],
      ArrowDown: [up, -by],
    }
    if (along[key]) write('Move', moved(plus([0, 0, 0], along[key])))
    else if (key === '+' || key === '-') write('Scale', { size: rounded(place.size * (key === '+' ? 1.02 : 1 / 1.02)) })
    else if (key === '[' || key === ']')
      write('Turn', { turn: rounded(wrapped(place.turn + (key === '[' ? 1 : -1) / 72)) })
    else if (key === 'a') setAiming(!aiming)
    else if (key === 'Escape' && aiming) setAiming(false)
    else return false
    return true
  }

  /** Puts it where the part was pressed, facing as the surface does there. */
  const aim = (event: React.PointerEvent<HTMLElement>): void => {
    const { left, top } = event.currentTarget.getBoundingClientRect()
    const found = renderer.places.surfaceOfPart(event.clientX - left, event.clientY - top)
    setAiming(false)
    if (!found) return
    const [x, y, z] = found.at
    const [a, b, c] = found.normal
    const flat = Math.hypot(a, c)
    write('Put', {
      ...{ x: rounded(x), y: rounded(y), z: rounded(z) },
      // What looks straight up or down keeps its heading.
      ...(flat > 1e-4 ? { heading: rounded(Math.atan2(a, c) / (2 * Math.PI)) } : {}),
      tilt: rounded(Math.atan2(b, flat) / (2 * Math.PI)),
    })
    actions.drop()
  }
  return (
    <>
      <FrameHandles
        renderer={renderer}
        label={`Projection ${title}: arrows move, + and − scale, [ and ] turn, A puts it where you press`}
        {...{ pointsOf, become, onKey }}
        tools={
          <ToolButton
            icon={Crosshair}
            word={`Put ${title} where you press`}
            tip="The next press on the part puts it there, facing as the surface does"
            pressed={aiming}
            onClick={() => setAiming(!aiming)}
          />
        }
      />
      {aiming && (
        <span
          aria-label={`Where ${title} goes`}
          className="absolute inset-0 cursor-crosshair"
          onPointerDown={(event) => {
            event.stopPropagation()
            aim(event)
          }}
        />
      )}
    </>
  )
}
