import { metresOf } from '#core/document/domain'
import { FlipHorizontal2 } from 'lucide-react'
import { useCallback, useMemo, useRef } from 'react'
import type { MaterialDocument } from '#core/document/document'
import { feedersOf } from '#core/document/edits/nodes'
import { setTarget } from '#core/document/edits/dials'
import { findLayer, findPlain } from '#core/document/edits/layers'
import type { Asset } from '../../contracts/asset'
import { useActions, useApplied, useMaterial, useUndialled, useView } from '../../session/material'
import type { Selection } from '../../session/view'
import { nodeTitle } from '../../session/words/source-words'
import { ToolButton } from '../../ui/tool-button'
import type { FrameHandle, Point } from './frame-handles'
import { CORNERS, FrameHandles, STEM, rounded, wrapped } from './frame-handles'
import type { StageRenderer } from './stage-renderer.client'

/** Where a decal lies: tile widths from the tile's corner, its width, turns counter-clockwise. */
interface Place {
  readonly centre: readonly [number, number]
  readonly size: number
  readonly angle: number
  readonly mirror: boolean
}

const SMALLEST = 0.005

/** The node of a type that is chosen: itself, or a layer, cell or mask that shows it. */
export function chosenOfType(
  type: string,
  document: MaterialDocument,
  selection: Selection | null,
  nodes: readonly string[],
): string | null {
  const isOne = (id: string): boolean => document.nodes[id]?.type === type
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
  const id = useMemo(() => chosenOfType('stencil', document, selection, nodes), [document, selection, nodes])
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
  /** Where its middle is, by the newest frame. */
  const middle = useRef<Point | null>(null)
  const title = nodeTitle(document, id)

  const placed = JSON.stringify(place)
  const pointsOf = useCallback((): readonly Point[] | null => {
    const { centre, size, angle } = JSON.parse(placed) as Place
    const [cos, sin] = [Math.cos(2 * Math.PI * angle), Math.sin(2 * Math.PI * angle)]
    const at = (right: number, below: number): [number, number] => {
      const [x, y] = [right * size, below * size * shape]
      return [centre[0] + x * cos + y * sin, (centre[1] - x * sin + y * cos) / aspect]
    }
    const found = renderer.places.pointsOf([
      at(0, 0),
      ...CORNERS.map(([x, y]) => at(x, y)),
      at(0, -0.5),
      at(0, -0.5 - STEM),
    ])
    middle.current = found?.[0] ?? null
    return found
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
  const become = (handle: FrameHandle, from: Point, to: Point): void => {
    if (handle === 'body') {
      const [a, b] = [renderer.places.uvAt(from.x, from.y), renderer.places.uvAt(to.x, to.y)]
      if (!a || !b) return
      const [u, v] = [wrapped(b.u - a.u), wrapped(b.v - a.v)]
      return write('Move', { centre: [rounded(place.centre[0] + u), rounded(place.centre[1] + v * aspect)] })
    }
    const { x, y } = middle.current ?? from
    if (handle === 'corner') {
      const ratio = Math.hypot(to.x - x, to.y - y) / Math.max(1, Math.hypot(from.x - x, from.y - y))
      return write('Scale', { size: rounded(place.size * ratio) })
    }
    const turned = Math.atan2(to.y - y, to.x - x) - Math.atan2(from.y - y, from.x - x)
    write('Turn', { angle: rounded(wrapped(place.angle - turned / (2 * Math.PI))) })
  }
  const onKey = (event: React.KeyboardEvent): boolean => {
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
    else return false
    return true
  }
  return (
    <FrameHandles
      renderer={renderer}
      label={`Decal ${title}: arrows move, + and − scale, [ and ] turn, M mirrors`}
      {...{ pointsOf, become, onKey }}
      tools={<ToolButton icon={FlipHorizontal2} word={`Mirror ${title}`} pressed={place.mirror} onClick={mirror} />}
    />
  )
}
