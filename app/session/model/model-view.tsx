import { useEffect, useRef, useState } from 'react'
import type { PartPoint } from '#core/mesh/part-ids'
import type { ShownModel } from './addresses'
import { meshAddress } from './addresses'
import type { ModelLook, ModelParts, ModelRenderer, PartMarks } from './model-renderer.client'
import { useSame } from '../../ui/use-same'
import { modelWorker } from './model-worker'

/** A model in three dimensions, turned by dragging or the arrows. */
export function ModelView({
  model,
  look,
  label,
  marks = null,
  onPart,
}: {
  model: ShownModel
  look: ModelLook
  label: string
  /** Triangles of a part that are pointed out. */
  marks?: PartMarks | null
  /** A part was pressed, and where. */
  onPart?(part: number, point: PartPoint): void
}) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const area = useRef<HTMLDivElement>(null)
  const fitted = useRef<string | null>(null)
  const pressed = useRef<{ x: number; y: number } | null>(null)
  const [renderer, setRenderer] = useState<ModelRenderer | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [ready, setReady] = useState<string | null>(null)

  useEffect(() => {
    let made: ModelRenderer | null = null
    let wanted = true
    void import('./model-renderer.client').then(({ ModelRenderer: Renderer }) => {
      if (!wanted || !canvas.current) return
      try {
        made = new Renderer(canvas.current, (frames, complete) => {
          if (canvas.current) Object.assign(canvas.current.dataset, { frames, complete })
        })
        setRenderer(made)
      } catch {
        setProblem('This browser gives no WebGL 2, which this view needs. The layout is drawn without it.')
      }
    })
    return () => {
      wanted = false
      made?.dispose()
    }
  }, [])

  useEffect(() => {
    if (!renderer || !area.current) return
    const watch = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect
      renderer.resize(width, height, window.devicePixelRatio)
    })
    watch.observe(area.current)
    return () => watch.disconnect()
  }, [renderer])

  const low = meshAddress(model, 'low')!
  // The twin is large: it is fetched when it is shown.
  const high = look.shows === 'low' ? null : meshAddress(model, 'high')
  const cage = look.cage ? meshAddress(model, 'cage') : null
  const { uvSet } = model.settings
  // Tangents of a large model take seconds: they are made once a normal map is to be seen.
  const [withTangents, setWithTangents] = useState(false)
  if (!withTangents && look.surface === 'baked' && look.pictures.some(({ normal }) => normal)) setWithTangents(true)
  const wanted = `${low} ${high} ${cage} ${uvSet} ${withTangents}`
  const reading = ready !== wanted
  useEffect(() => {
    if (!renderer) return
    let isWanted = true
    const worker = modelWorker()
    const parts = async (): Promise<ModelParts> => ({
      low: await worker.geometryOf(low, uvSet, withTangents),
      ...(high ? { high: await worker.geometryOf(high, 0, false) } : {}),
      ...(cage ? { cage: await worker.geometryOf(cage, 0, false) } : {}),
    })
    void parts().then(
      (made) => {
        if (!isWanted) return
        renderer.setParts(made, fitted.current !== model.id)
        fitted.current = model.id
        setReady(wanted)
      },
      () => isWanted && setProblem('The model cannot be read right now. Reload the page to try again.'),
    )
    return () => {
      isWanted = false
    }
  }, [renderer, wanted, low, high, cage, uvSet, withTangents, model.id])

  // Pages hear of a model often while it is baked: what looks the same is not drawn again.
  const same = useSame(look)
  useEffect(() => renderer?.setLook(same), [renderer, same])
  useEffect(() => renderer?.setMarks(marks), [renderer, marks])

  return (
    <div ref={area} className="absolute inset-0 bg-view">
      <canvas
        ref={canvas}
        role="img"
        aria-label={label}
        tabIndex={0}
        data-surface={look.surface}
        data-reading={reading}
        className="absolute inset-0 block size-full touch-none focus-visible:-outline-offset-2"
        onPointerDown={({ clientX: x, clientY: y }) => (pressed.current = { x, y })}
        onPointerUp={(event) => {
          const from = pressed.current
          // A press that moved has turned the model.
          if (!from || !onPart || Math.abs(event.clientX - from.x) + Math.abs(event.clientY - from.y) > 4) return
          const { left, top } = event.currentTarget.getBoundingClientRect()
          const hit = renderer?.pointAt(event.clientX - left, event.clientY - top)
          if (hit) onPart(hit.part, hit.point)
        }}
        onKeyDown={(event) => {
          const by = event.shiftKey ? 0.125 : 0.02
          if (event.key === 'ArrowLeft') renderer?.turn(-by, 0)
          else if (event.key === 'ArrowRight') renderer?.turn(by, 0)
          else if (event.key === 'ArrowUp') renderer?.turn(0, -by)
          else if (event.key === 'ArrowDown') renderer?.turn(0, by)
          else if (event.key === 'f') renderer?.fit()
          else return
          event.preventDefault()
        }}
        onDoubleClick={() => renderer?.fit()}
      />
      {reading && !problem && (
        <p className="absolute bottom-3 left-3 rounded-md bg-raised px-3 py-2">Reading the model …</p>
      )}
      {problem && (
        <p role="alert" className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">
          ■ {problem}
        </p>
      )}
    </div>
  )
}
