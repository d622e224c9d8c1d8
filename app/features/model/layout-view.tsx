import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { layoutFactsAt } from '#core/mesh/layout-facts'
import type { LayoutView as Place } from '#runtime/browser/layout-painter'
import type { MeshDataInfo } from '../../contracts/model'
import { meshAddress, meshDataAddress } from '../../session/model/addresses'
import { modelWorker } from '../../session/model/model-worker'
import { useSame } from '../../ui/use-same'
import { counted } from '../../ui/words'
import { useModel } from './model-context'

/** Share of the view that a tile takes when all of it is shown. */
const FIT = 0.92
const NEAREST = 400
const FARTHEST = 0.2

/** How the chosen part lies in UVs; dragged and zoomed with the wheel, or moved with the arrows, + and −. */
export function LayoutPane() {
  const { model, view } = useModel()
  const { size, padding, uvSet } = model.settings
  const canvas = useRef<HTMLCanvasElement>(null)
  const area = useRef<HTMLDivElement>(null)
  const [room, setRoom] = useState({ width: 0, height: 0 })
  const [moved, setMoved] = useState<{ of: string; place: Place } | null>(null)
  const [drawn, setDrawn] = useState(0)
  const [problem, setProblem] = useState<string | null>(null)
  const part = model.summary.parts[view.part]
  const facts = part?.layouts[uvSet]
  const address = meshAddress(model, 'low')!
  const tiles = useSame([1001, ...(facts?.tiles ?? [])])

  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect
      setRoom({ width: Math.round(width), height: Math.round(height) })
    })
    watch.observe(area.current!)
    return () => watch.disconnect()
  }, [])

  // Another part, or another size of the view, is shown whole.
  const fitting = useMemo(() => fitted(tiles, room), [tiles, room])
  const of = `${address} ${view.part} ${uvSet}`
  const shownPlace = moved?.of === of ? moved.place : fitting

  const data =
    view.kind === null || view.layout !== 'data'
      ? []
      : model.data.filter((one) => one.part === view.part && one.kind === view.kind)
  const at = (shown: readonly MeshDataInfo[], what: 'picture' | 'missed') =>
    shown.map((one) => [one.udim, meshDataAddress(model.id, one, what)] as const)
  const ratio = room.width === 0 ? 1 : window.devicePixelRatio
  const { left, top, scale } = shownPlace
  // The page hears of the model often while it is baked: what looks the same is not painted again.
  const wanted = useSame({
    mode: view.layout,
    view: { left, top, scale: scale * ratio },
    width: Math.round(room.width * ratio),
    height: Math.round(room.height * ratio),
    size,
    padding: view.padding ? padding : 0,
    pictures: at(data, 'picture'),
    missed: view.missed
      ? at(
          data.filter((one) => one.missed > 0),
          'missed',
        )
      : [],
    shown: view.problem,
  })
  const isThere = facts !== undefined
  const painting = useRef(0)
  useEffect(() => {
    if (!isThere || wanted.width === 0) return
    const mine = ++painting.current
    void modelWorker()
      .paint(address, view.part, uvSet, wanted)
      .then(
        (bitmap) => {
          // What was asked for later may have come earlier.
          if (mine !== painting.current || !canvas.current) return bitmap.close()
          canvas.current.width = bitmap.width
          canvas.current.height = bitmap.height
          canvas.current.getContext('bitmaprenderer')!.transferFromImageBitmap(bitmap)
          setDrawn((count) => count + 1)
          setProblem(null)
        },
        () =>
          mine === painting.current &&
          setProblem('The layout cannot be drawn right now. Reload the page to try again.'),
      )
  }, [address, isThere, view.part, uvSet, wanted])

  const move = useCallback(
    (to: (from: Place) => Place): void =>
      setMoved((before) => ({ of, place: to(before?.of === of ? before.place : fitting) })),
    [of, fitting],
  )
  const zoom = useCallback(
    (factor: number, x: number, y: number): void =>
      move(({ left, top, scale }) => {
        const next = Math.min(NEAREST * fitting.scale, Math.max(FARTHEST * fitting.scale, scale * factor))
        return { scale: next, left: left + x / scale - x / next, top: top + y / scale - y / next }
      }),
    [move, fitting],
  )
  const middle = [room.width / 2, room.height / 2] as const
  const pan = (x: number, y: number): void =>
    move(({ left, top, scale }) => ({ scale, left: left - x / scale, top: top - y / scale }))
  useEffect(() => {
    const element = canvas.current
    if (!element) return
    // React's own listener is passive and could not keep the page from scrolling.
    const turn = (event: WheelEvent): void => {
      event.preventDefault()
      const { left, top } = element.getBoundingClientRect()
      zoom(2 ** (-event.deltaY / 300), event.clientX - left, event.clientY - top)
    }
    element.addEventListener('wheel', turn, { passive: false })
    return () => element.removeEventListener('wheel', turn)
  }, [isThere, zoom])

  const truth = facts && layoutFactsAt(facts, size)
  return (
    <div ref={area} className="absolute inset-0 overflow-hidden bg-view">
      {facts ? (
        <canvas
          ref={canvas}
          role="img"
          aria-label={`Layout of ${part!.name}: ${counted(facts.islands, 'island')}`}
          tabIndex={0}
          data-drawn={drawn}
          className="absolute inset-0 block size-full cursor-grab touch-none focus-visible:-outline-offset-2 active:cursor-grabbing"
          onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
          onPointerMove={(event) => event.buttons !== 0 && pan(event.movementX, event.movementY)}
          onDoubleClick={() => setMoved(null)}
          onKeyDown={(event) => {
            const step = 40
            if (event.key === '+' || event.key === '=') zoom(1.25, ...middle)
            else if (event.key === '-') zoom(0.8, ...middle)
            else if (event.key === 'f') setMoved(null)
            else if (event.key === 'ArrowLeft') pan(step, 0)
            else if (event.key === 'ArrowRight') pan(-step, 0)
            else if (event.key === 'ArrowUp') pan(0, step)
            else if (event.key === 'ArrowDown') pan(0, -step)
            else return
            event.preventDefault()
          }}
        />
      ) : (
        <p className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">
          {part?.name ?? 'This part'} has no UVs in set {uvSet + 1}. “Before you bake” has what makes them.
        </p>
      )}
      {problem && (
        <p role="alert" className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">
          ■ {problem}
        </p>
      )}
      {truth && (
        <p className="pointer-events-none absolute bottom-2 left-2 rounded-md bg-raised px-2 py-1 font-mono text-note">
          {counted(truth.islands, 'island')} · {Math.round(truth.usedArea * 100)} % used ·{' '}
          {Math.round(truth.texelsPerMetre.mean)} texels/m ±{' '}
          {Math.round((100 * truth.texelsPerMetre.deviation) / (truth.texelsPerMetre.mean || 1))} % · stretch{' '}
          {truth.stretch.mean.toFixed(2)} ·{' '}
          {truth.spacingTexels === null ? 'wide spacing' : `${truth.spacingTexels.toFixed(1)} texels apart`}
        </p>
      )}
    </div>
  )
}

/** All tiles within a view. */
function fitted(tiles: readonly number[], { width, height }: { width: number; height: number }): Place {
  const columns = tiles.map((udim) => (udim - 1001) % 10)
  const rows = tiles.map((udim) => Math.floor((udim - 1001) / 10))
  const [right, up] = [Math.max(...columns) + 1, Math.max(...rows)]
  const scale = Math.max(1, FIT * Math.min(width / right, height / (up + 1)))
  return { scale, left: (right - width / scale) / 2, top: (1 - up - height / scale) / 2 }
}
