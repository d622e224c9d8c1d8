import { metresOf } from '#core/document/domain'
import { channelOutput } from '#core/document/address'
import { formatStageOutput } from '#core/texture/stage-output'
import type { StageOutput } from '#core/texture/stage-output'
import { useEffect, useMemo, useRef, useState } from 'react'
import type { Channel } from '#core/document/channels'
import { channelsOf } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { Button } from '../../ui/button'
import { useActions, useUndialled, useEvaluation, useMaterial, usePlacement, useView } from '../../session/material'
import { useFollowingPreview } from './use-following-preview'
import { shapeInWords } from '../../session/view'
import { DecalHandles } from './decal-handles'
import { ProjectionHandles } from './projection-handles'
import type { StageRenderer } from './stage-renderer.client'
import { linearToHex } from '#core/colour/srgb'
import { useFileDrop } from '../../ui/use-file-drop'
import { faultInWords } from '../../session/words/fault-words'
import { shownInWords } from './shown-in-words'
import { Here, useAsk } from './here'
import { ModelOnStage } from './model-on-stage'
import type { OnModel } from './on-model'
import { PartHere, PartLists, PartOnStage } from './part-on-stage'
import { onMap } from './lamp-pad'
import { RepeatMarks } from './repeat-marks'
import { StageBar } from './stage-bar'
import { Probe } from './probe'
import type { Mark } from '#core/checks/texels-where'
import { Marks } from './marks'

const NOTHING_MORE: readonly never[] = []

/** What stands left of the seam: another state, or files as they arrive. */
export interface Beside {
  readonly name: string
  /** What stands right of it. */
  readonly now: string
  /** Nothing is left of the rest. */
  readonly whole: boolean
}

/**
 * The viewing area: the material lit on a shape, or one output unlit; whole, or split with another state or with what was
 * packed. `marks` are places of the tile that are circled in the flat view.
 */
export function Stage({
  packed = null,
  marks = [],
  extraOutputs = NOTHING_MORE,
  readOnly = false,
  delivers = NOTHING_MORE,
}: {
  packed?: Beside | null
  marks?: readonly Mark[]
  /** What can be shown besides the channels. */
  extraOutputs?: readonly { output: StageOutput; word: string }[]
  /** Looked at only: no mask lies over it, and decals have no handles. */
  readOnly?: boolean
  /** Channels that files are made of here: what they take of mesh data is asked for too. */
  delivers?: readonly Channel[]
}) {
  const actions = useActions()
  const { evaluation, view } = useMaterial()
  const stage = useView((one) => one.stage)
  const other = useView((one) => one.compared)
  const compared = packed ? null : other
  const versus = useView((one) => (one.compared && !packed ? one.versus : null))
  const seam = useView((one) => one.seam)
  const picking = useView((one) => one.picking)
  const pickingIds = useView((one) => one.pickingIds)
  const document = useUndialled()
  const state = useEvaluation((one) => one.state)
  const canvas = useRef<HTMLCanvasElement>(null)
  const area = useRef<HTMLDivElement>(null)
  const [renderer, setRenderer] = useState<StageRenderer | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const asking = useView((one) => one.asking)
  const repeatMarked = useView((one) => one.repeatMarked)
  const { asked, ask, close } = useAsk()
  const [askedPart, setAskedPart] = useState<{ x: number; y: number; at: OnModel } | null>(null)
  useFollowingPreview(area)
  const { over, handlers } = useFileDrop((files, { clientX, clientY }) => {
    const box = canvas.current!.getBoundingClientRect()
    const at = renderer?.places.uvAt(clientX - box.left, clientY - box.top)
    void actions.dropImages(files, at ? { uv: [at.u, at.v] } : {})
  })

  useEffect(() => {
    let made: StageRenderer | null = null
    let wanted = true
    void import('./stage-renderer.client').then(({ StageRenderer: Renderer }) => {
      if (!wanted || !canvas.current) return
      try {
        made = new Renderer(
          canvas.current,
          (frames, drawn) => {
            if (canvas.current) Object.assign(canvas.current.dataset, { frames, drawn })
          },
          actions.notify,
        )
        setRenderer(made)
      } catch {
        setProblem('This browser gives no WebGL 2, which the stage needs. Swatches and maps work without it.')
      }
    })
    return () => {
      wanted = false
      made?.dispose()
    }
  }, [actions])

  useEffect(() => {
    if (!renderer || !area.current) return
    const watch = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect
      renderer.resize(width, height, window.devicePixelRatio)
    })
    watch.observe(area.current)
    return () => watch.disconnect()
  }, [renderer])

  const beside = packed ?? (compared && { name: compared.name, now: versus?.name ?? 'now', whole: false })
  const split = beside ? (beside.whole ? 1 : seam) : null
  useEffect(() => renderer?.setView(stage, split), [renderer, stage, split])

  const name = stage.shown === null ? 'lit' : shownInWords(document, stage.shown)
  const where =
    stage.mode === 'flat'
      ? stage.repeat > 1
        ? `flat, ${stage.repeat} × ${stage.repeat} tiles`
        : 'flat'
      : stage.mode === 'part'
        ? document.domain.kind === 'part'
          ? 'on a part'
          : 'behind a model'
        : `on a ${shapeInWords(stage.shape)}`
  const pick = async (event: React.PointerEvent): Promise<void> => {
    const { left, top } = canvas.current!.getBoundingClientRect()
    const uv = renderer?.places.uvAt(event.clientX - left, event.clientY - top)
    if (!uv || !picking) return
    const values = await evaluation.probe(uv.view, uv.u, uv.v)
    const colour = values.find(({ channel }) => channel === 'colour')
    view.setState({ picking: null })
    actions.notify(null)
    if (colour) picking(linearToHex(colour.values))
  }
  /** Takes the ID under the pointer in, or out where it is in. */
  const pickId = async (event: React.PointerEvent, node: string): Promise<void> => {
    const { left, top } = canvas.current!.getBoundingClientRect()
    const uv = renderer?.places.uvAt(event.clientX - left, event.clientY - top)
    if (!uv) return
    const shown = { kind: 'port', node, port: 'id' } as const
    const found = await evaluation.placeAt(uv.view, { u: uv.u, v: uv.v, channel: 'colour', shown })
    const id = 'shown' in found ? found.shown?.values[0] : undefined
    if (id === undefined) return actions.notify('There is no ID here yet: its mesh data have not been baked.')
    actions.edit('Pick an ID', (draft) => {
      const params = (draft.nodes[node]!.params ??= {})
      const before = (params.ids as number[] | undefined) ?? []
      params.ids = before.includes(id) ? before.filter((one) => one !== id) : [...before, id]
    })
  }
  const askAt = (x: number, y: number): void => {
    const uv = renderer?.places.uvAt(x, y)
    view.setState({ asking: false })
    if (uv) return void ask({ x, y }, uv, stage.shown)
    const at = renderer?.places.otherPlaceAt(x, y) ?? null
    // Once the press is over: what has the focus then would close what opens now.
    requestAnimationFrame(() => setAskedPart(at && { x, y, at }))
  }
  // Of a model that shows no material there is nothing to read; its own lists lie there.
  const probed = stage.mode !== 'part' || document.domain.kind === 'part'
  return (
    <section aria-label="Stage" className="relative flex h-full min-h-0 flex-col bg-view" data-guide="stage">
      <div
        ref={area}
        className={`relative min-h-0 flex-1 ${over ? 'outline-2 -outline-offset-4 outline-accent' : ''}`}
        {...handlers}
      >
        <canvas
          ref={canvas}
          role="img"
          aria-label={`${document.name}, ${name}, ${where}`}
          data-sharp={state === 'sharp'}
          data-shown={stage.shown ? formatStageOutput(stage.shown) : 'lit'}
          tabIndex={0}
          className={`absolute inset-0 block size-full touch-none focus-visible:-outline-offset-2 ${picking || pickingIds || asking ? 'cursor-crosshair' : ''}`}
          onPointerDownCapture={(event) => {
            const asks = !readOnly && (asking || event.altKey)
            if (!picking && !pickingIds && !asks) return
            event.stopPropagation()
            if (picking) return void pick(event)
            if (pickingIds) return void pickId(event, pickingIds)
            const { left, top } = event.currentTarget.getBoundingClientRect()
            askAt(event.clientX - left, event.clientY - top)
          }}
          onKeyDown={(event) => {
            const by = event.shiftKey ? 0.125 : 0.02
            if (event.key === 'ArrowLeft') actions.setStage({ turn: wrapped(stage.turn - by) })
            else if (event.key === 'ArrowRight') actions.setStage({ turn: wrapped(stage.turn + by) })
            else if (event.key === 'ArrowUp') actions.setStage({ exposure: Math.min(8, stage.exposure + 0.25) })
            else if (event.key === 'ArrowDown') actions.setStage({ exposure: Math.max(-8, stage.exposure - 0.25) })
            else if (event.key === 'i' && !readOnly) askAt(...middleOf(event.currentTarget))
            else return
            event.preventDefault()
          }}
        />
        {problem && (
          <p role="alert" className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">
            ■ {problem}
          </p>
        )}
        {beside && !beside.whole && <Seam {...beside} />}
        {stage.mode === 'part' && document.domain.kind === 'tile' && <ModelOnStage />}
        {renderer && document.domain.kind === 'part' && (
          <PartOnStage renderer={renderer} shows={stage.mode === 'part'} />
        )}
        <div
          className={`pointer-events-none absolute inset-x-2 flex flex-col gap-1.5 *:pointer-events-auto ${probed ? 'bottom-2' : 'bottom-10'}`}
        >
          {renderer && document.domain.kind === 'part' && stage.mode === 'part' && <PartLists delivers={delivers} />}
          <Failure />
          {renderer && probed && <Probe renderer={renderer} area={area} tall={stage.mode === 'part'} />}
        </div>
        {state === 'waiting' && stage.mode !== 'part' && !problem && (
          <p className="absolute bottom-3 left-3 rounded-md bg-raised px-3 py-2">Making the first picture …</p>
        )}
        {!readOnly && <HeldKeys canvas={canvas} />}
        {renderer && marks.length > 0 && stage.mode === 'flat' && <Marks renderer={renderer} marks={marks} />}
        {renderer && repeatMarked && stage.mode === 'flat' && <RepeatMarks renderer={renderer} repeat={stage.repeat} />}
        {renderer && !readOnly && stage.mode !== 'part' && <DecalHandles renderer={renderer} />}
        {renderer && !readOnly && stage.mode === 'part' && document.domain.kind === 'part' && (
          <ProjectionHandles renderer={renderer} />
        )}
        {renderer && <TexturesOnStage renderer={renderer} packed={packed !== null} readOnly={readOnly} />}
        <StageBar extraOutputs={extraOutputs} renderer={renderer} readOnly={readOnly} />
        {askedPart && <PartHere {...askedPart} onClose={() => setAskedPart(null)} />}
        {asked && <Here asked={asked} shown={stage.shown} onClose={close} />}
      </div>
    </section>
  )
}

/** While M is held the chosen mask lies over the surface; while K is, the lamp goes along with the pointer. Not in fields. */
function HeldKeys({ canvas }: { canvas: React.RefObject<HTMLCanvasElement | null> }) {
  const { view, actions } = useMaterial()
  useEffect(() => {
    let lamp = false
    const ended = new AbortController()
    const { signal } = ended
    const hold = (event: KeyboardEvent): void => {
      const { key, ctrlKey, metaKey, altKey, defaultPrevented } = event
      const typing = (event.target as HTMLElement).matches?.('input, textarea, select, [contenteditable]')
      if (ctrlKey || metaKey || altKey || defaultPrevented || typing) return
      if (key === 'm') view.setState({ overlayHeld: true })
      if (key === 'k') lamp = true
      if (key === 'Escape' && view.getState().asking) view.setState({ asking: false })
    }
    const release = (): void => {
      lamp = false
      if (view.getState().overlayHeld) view.setState({ overlayHeld: false })
    }
    const move = (event: PointerEvent): void => {
      if (!lamp || event.target !== canvas.current) return
      const { left, top, width, height } = canvas.current!.getBoundingClientRect()
      const half = Math.min(width, height) / 2
      const at = onMap((event.clientX - left - width / 2) / half, (top + height / 2 - event.clientY) / half)
      actions.setStage({ lamp: { ...view.getState().stage.lamp, on: true, at } })
    }
    window.addEventListener('keydown', hold, { signal })
    window.addEventListener('keyup', release, { signal })
    window.addEventListener('blur', release, { signal })
    window.addEventListener('pointermove', move, { signal })
    return () => ended.abort()
  }, [view, actions, canvas])
  return null
}

/** Hands what the workers make to the renderer; apart, so that nothing else renders with each picture. */
function TexturesOnStage({
  renderer,
  packed,
  readOnly,
}: {
  renderer: StageRenderer
  packed: boolean
  readOnly: boolean
}) {
  const versus = useView((one) => (one.compared && !packed ? one.versus : null))
  const shown = useEvaluation((one) => (versus ? one.textures.versus : one.textures.shown))
  const beside = useEvaluation((one) => (packed ? one.textures.delivered : one.textures.comparison))
  const document = useUndialled()
  const material = useSurface(versus?.document ?? document)
  const other = useView((one) => one.compared)
  const otherMaterial = useSurface(packed ? null : (other?.document ?? null))
  const waits = useEvaluation((one) => one.state === 'rough')
  const overlay = useView((one) => one.overlayHeld || one.stage.overlay)
  useEffect(() => renderer.setRight(versus ? 'versus' : 'shown'), [renderer, versus])
  useEffect(() => renderer.setWaiting(waits), [renderer, waits])
  useEffect(() => renderer.setOverlay(overlay && !readOnly), [renderer, overlay, readOnly])
  useEffect(() => renderer.setTextures('shown', shown, material!), [renderer, shown, material])
  const look = useEvaluation((one) => (packed ? one.deliveredLook : null))
  useEffect(
    () => renderer.setTextures('comparison', beside, otherMaterial, look),
    [renderer, beside, otherMaterial, look],
  )
  return null
}

/** What the renderer needs of a document besides textures; the same object while it stays the same. */
function useSurface(document: MaterialDocument | null) {
  const metres = document && metresOf(document)
  const { heightMetres = 0, emissionStrength = 0, surface } = document ?? {}
  return useMemo(
    () => (metres && surface ? { metres, heightMetres, emissionStrength, surface } : null),
    [metres, heightMetres, emissionStrength, surface],
  )
}

const middleOf = ({ clientWidth, clientHeight }: HTMLElement): [number, number] => [clientWidth / 2, clientHeight / 2]

const wrapped = (turn: number): number => turn - Math.floor(turn)

/** What could not be made, or was made without something, where it shows on the stage. */
function Failure() {
  const document = useUndialled()
  const actions = useActions()
  const isPlaced = usePlacement(({ models, problem: failed }) => models !== null || failed !== null)
  const problem = useEvaluation((one) => one.problem)
  const faults = useEvaluation((one) => one.faults)
  const shown = useView((one) => one.stage.shown)
  const channels = channelsOf(document).map(({ id }) => channelOutput(id))
  const found = [...(shown === null ? [] : [shown]), ...channels]
    .map((output) => ({ title: shownInWords(document, output), fault: faults[formatStageOutput(output)] }))
    .find(({ fault }) => fault)
  // What a material for parts lies on is on its way: what it lacks is not known before.
  if ((!problem && !found) || (document.domain.kind === 'part' && !isPlaced)) return null
  const { fault } = found ?? {}
  const title = found && found.title[0]!.toUpperCase() + found.title.slice(1)
  const isWhole = problem !== null || fault!.missing
  return (
    <div
      role={isWhole ? 'alert' : 'status'}
      className="flex items-center gap-3 rounded-md border border-rule-strong bg-raised px-3 py-1"
    >
      <span className="min-w-0 flex-1">
        {problem !== null
          ? `■ ${problem}`
          : isWhole
            ? `■ ${title} cannot be made: ${faultInWords(document, fault!)}`
            : `▲ ${title} is shown without what is not finished: ${faultInWords(document, fault!)}`}
      </span>
      {fault?.node && <Button onClick={() => actions.selectNodes([fault.node!])}>Show the node</Button>}
      {!fault?.node && fault?.layer && (
        <Button onClick={() => actions.select({ kind: 'layer', layer: fault.layer! })}>Show the layer</Button>
      )}
      {!fault?.node && fault?.dial && <Button onClick={() => actions.setView({ tab: 'dials' })}>Show the dials</Button>}
    </div>
  )
}

/** Where two states meet; dragged sideways, or moved with the arrows. */
function Seam({ name, now }: Beside) {
  const { view } = useMaterial()
  const seam = useView((one) => one.seam)
  const move = (event: React.PointerEvent<HTMLElement>): void => {
    const { left, width } = event.currentTarget.parentElement!.getBoundingClientRect()
    view.setState({ seam: Math.min(0.98, Math.max(0.02, (event.clientX - left) / width)) })
  }
  return (
    <>
      <span
        role="separator"
        aria-orientation="vertical"
        aria-label="Where the two meet"
        aria-valuenow={Math.round(seam * 100)}
        aria-valuemin={2}
        aria-valuemax={98}
        tabIndex={0}
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && move(event)}
        onKeyDown={(event) => {
          const by = event.key === 'ArrowLeft' ? -0.02 : event.key === 'ArrowRight' ? 0.02 : 0
          if (by !== 0) view.setState({ seam: Math.min(0.98, Math.max(0.02, seam + by)) })
        }}
        className="absolute inset-y-0 w-3 -translate-x-1/2 cursor-col-resize touch-none"
        style={{ left: `${seam * 100}%` }}
      >
        <span className="absolute inset-y-0 left-1/2 w-px bg-white mix-blend-difference" />
      </span>
      <span
        className="pointer-events-none absolute top-12 -translate-x-full rounded-md bg-raised px-2 py-0.5"
        style={{ left: `calc(${seam * 100}% - 8px)` }}
      >
        {name}
      </span>
      <span
        className="pointer-events-none absolute top-12 rounded-md bg-raised px-2 py-0.5"
        style={{ left: `calc(${seam * 100}% + 8px)` }}
      >
        {now}
      </span>
    </>
  )
}
