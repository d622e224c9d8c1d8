import { Maximize, RotateCw, Sun, X } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useEffect, useMemo, useRef, useState } from 'react'
import { encodeSrgb } from '#core/colour/srgb'
import type { MaterialDocument } from '#core/graph/document'
import { channelsOf } from '#core/layers/expand'
import { Button } from '../../ui/button'
import { Choice, Segments } from '../../ui/choice'
import { NumberField } from '../../ui/number-field'
import { ToolButton } from '../../ui/tool-button'
import type { Values } from '../evaluation/evaluation'
import { useActions, useDocument, useEvaluation, useMaterial, useView } from '../material/material'
import { ENVIRONMENTS, SHAPES } from '../material/view'
import { outputInWords } from '../parameters/source-field'
import type { StageRenderer } from './stage-renderer.client'

/** The viewing area: the material lit on a shape, or one output unlit; whole or split in two states. */
export function Stage() {
  const actions = useActions()
  const { evaluation, view } = useMaterial()
  const stage = useView((one) => one.stage)
  const compared = useView((one) => one.compared)
  const seam = useView((one) => one.seam)
  const picking = useView((one) => one.picking)
  const document = useDocument()
  const textures = useEvaluation((one) => one.textures)
  const state = useEvaluation((one) => one.state)
  const canvas = useRef<HTMLCanvasElement>(null)
  const area = useRef<HTMLDivElement>(null)
  const [renderer, setRenderer] = useState<StageRenderer | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [over, setOver] = useState(false)

  useEffect(() => {
    let made: StageRenderer | null = null
    let wanted = true
    void import('./stage-renderer.client').then(({ StageRenderer: Renderer }) => {
      if (!wanted || !canvas.current) return
      try {
        made = new Renderer(canvas.current, (frames) => {
          if (canvas.current) canvas.current.dataset.frames = String(frames)
        })
        setRenderer(made)
      } catch {
        setProblem('This browser gives no WebGL 2, which the stage needs. Swatches and maps work without it.')
      }
    })
    return () => {
      wanted = false
      made?.dispose()
    }
  }, [])

  useEffect(() => {
    if (!renderer || !area.current) return
    const watch = new ResizeObserver(([entry]) =>
      renderer.resize(entry!.contentRect.width, entry!.contentRect.height, window.devicePixelRatio),
    )
    watch.observe(area.current)
    return () => watch.disconnect()
  }, [renderer])

  const { metres } = document.domain
  const material = useMemo(
    () => ({ metres, heightMetres: document.heightMetres, emissionStrength: document.emissionStrength }),
    [metres, document.heightMetres, document.emissionStrength],
  )
  const otherMaterial = useMemo(
    () =>
      compared && {
        metres: compared.document.domain.metres,
        heightMetres: compared.document.heightMetres,
        emissionStrength: compared.document.emissionStrength,
      },
    [compared],
  )
  useEffect(() => renderer?.setTextures('main', textures.main, material), [renderer, textures.main, material])
  useEffect(
    () => renderer?.setTextures('other', textures.other, otherMaterial),
    [renderer, textures.other, otherMaterial],
  )
  useEffect(() => renderer?.setView(stage, compared ? seam : null), [renderer, stage, compared, seam])

  const name = stage.shown === null ? 'lit' : shownInWords(document, stage.shown)
  const where =
    stage.mode === 'flat'
      ? stage.repeat > 1
        ? `flat, ${stage.repeat} × ${stage.repeat} tiles`
        : 'flat'
      : `on a ${stage.shape}`
  const pick = async (event: React.PointerEvent): Promise<void> => {
    const { left, top } = canvas.current!.getBoundingClientRect()
    const spot = renderer?.spotAt(event.clientX - left, event.clientY - top)
    if (!spot || !picking) return
    const values = await evaluation.probe(spot.lane, spot.u, spot.v)
    const colour = values.find(({ channel }) => channel === 'colour')
    view.setState({ picking: null, notice: null })
    if (colour) picking(hexOf(colour.values))
  }
  return (
    <section aria-label="Stage" className="relative flex h-full min-h-0 flex-col bg-view" data-guide="stage">
      <div
        ref={area}
        className={`relative min-h-0 flex-1 ${over ? 'outline-2 -outline-offset-4 outline-accent' : ''}`}
        onDragOver={(event) => {
          event.preventDefault()
          setOver(true)
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault()
          setOver(false)
          const file = event.dataTransfer.files[0]
          if (file) void actions.dropLayer(file)
        }}
      >
        <canvas
          ref={canvas}
          role="img"
          aria-label={`${document.name}, ${name}, ${where}`}
          data-sharp={state === 'sharp'}
          data-shown={stage.shown ?? 'lit'}
          tabIndex={0}
          className={`absolute inset-0 block size-full touch-none focus-visible:-outline-offset-2 ${picking ? 'cursor-crosshair' : ''}`}
          onPointerDownCapture={(event) => {
            if (!picking) return
            event.stopPropagation()
            void pick(event)
          }}
          onKeyDown={(event) => {
            const by = event.shiftKey ? 0.125 : 0.02
            if (event.key === 'ArrowLeft') actions.setStage({ turn: wrapped(stage.turn - by) })
            else if (event.key === 'ArrowRight') actions.setStage({ turn: wrapped(stage.turn + by) })
            else if (event.key === 'ArrowUp') actions.setStage({ exposure: Math.min(8, stage.exposure + 0.25) })
            else if (event.key === 'ArrowDown') actions.setStage({ exposure: Math.max(-8, stage.exposure - 0.25) })
            else return
            event.preventDefault()
          }}
        />
        {problem && (
          <p role="alert" className="absolute inset-x-8 top-1/3 rounded-md bg-raised p-4">
            ■ {problem}
          </p>
        )}
        {state === 'waiting' && !problem && (
          <p className="absolute bottom-3 left-3 rounded-md bg-raised px-3 py-2">Making the first picture …</p>
        )}
        <Failure />
        {compared && <Seam name={compared.name} />}
        <StageBar onFit={() => renderer?.fit()} onOneToOne={(width) => renderer?.oneToOne(width)} />
        {renderer && <Probe renderer={renderer} area={area} />}
      </div>
    </section>
  )
}

const wrapped = (turn: number): number => turn - Math.floor(turn)

const hexOf = (linear: readonly number[]): string =>
  `#${linear.map((v) => byteOf(v).toString(16).padStart(2, '0')).join('')}`
const byteOf = (linear: number): number => Math.round(255 * Math.min(1, Math.max(0, encodeSrgb(linear))))

export function shownInWords(document: MaterialDocument, output: string): string {
  const channel = channelsOf(document).find(({ id }) => id === output)
  if (channel) return channel.title.toLowerCase()
  const [kind = '', layer = '', part = ''] = output.split(':')
  if (kind === 'cell') return `what layer ${layer} puts into ${part}`
  if (kind === 'layer') return part === 'mask' ? `mask of layer ${layer}` : `${part} up to layer ${layer}`
  if (kind === 'entry') return `mask entry ${Number(part) + 1} of layer ${layer}`
  return outputInWords(document, output)
}

/** What could not be made, where it shows on the stage. */
function Failure() {
  const document = useDocument()
  const actions = useActions()
  const problem = useEvaluation((one) => one.problem)
  const faults = useEvaluation((one) => one.faults)
  const found = channelsOf(document)
    .map(({ id, title }) => ({ title, fault: faults[id] }))
    .find(({ fault }) => fault)
  if (!problem && !found) return null
  const { fault, title } = found ?? {}
  return (
    <div
      role="alert"
      className="absolute inset-x-3 bottom-10 flex items-center gap-3 rounded-md border border-rule-strong bg-raised px-3 py-2"
    >
      <span className="min-w-0 flex-1">
        ■ {problem ?? `${title} cannot be made: ${fault!.message}`}
        {fault?.node && ` (node ${fault.node})`}
      </span>
      {fault?.node && <Button onClick={() => actions.chooseNodes([fault.node!])}>Show the node</Button>}
      {!fault?.node && fault?.layer && (
        <Button onClick={() => actions.choose({ kind: 'layer', layer: fault.layer! })}>Show the layer</Button>
      )}
      {!fault?.node && fault?.dial && <Button onClick={() => actions.setView({ tab: 'dials' })}>Show the dials</Button>}
    </div>
  )
}

/** Where two states meet; dragged sideways, or moved with the arrows. */
function Seam({ name }: { name: string }) {
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
        aria-label="Where the two states meet"
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
        className="pointer-events-none absolute bottom-10 -translate-x-full rounded-md bg-raised px-2 py-0.5"
        style={{ left: `calc(${seam * 100}% - 8px)` }}
      >
        {name}
      </span>
      <span
        className="pointer-events-none absolute bottom-10 rounded-md bg-raised px-2 py-0.5"
        style={{ left: `calc(${seam * 100}% + 8px)` }}
      >
        now
      </span>
    </>
  )
}

const REPEATS = [1, 2, 3, 4, 6, 8]

/** What is on the stage and how: output, view, shape, light. */
function StageBar({ onFit, onOneToOne }: { onFit(): void; onOneToOne(width: number): void }) {
  const actions = useActions()
  const document = useDocument()
  const stage = useView((view) => view.stage)
  const compared = useView((view) => view.compared)
  const width = useView((view) => view.width)
  const channels = channelsOf(document)
  const known = stage.shown === null || channels.some(({ id }) => id === stage.shown)
  const options = [
    { value: 'lit', word: 'lit material' },
    ...channels.map(({ id, title }) => ({ value: id, word: `${title.toLowerCase()}, unlit` })),
    ...(known ? [] : [{ value: stage.shown!, word: shownInWords(document, stage.shown!) }]),
  ]
  return (
    <div className="pointer-events-none absolute inset-x-2 top-2 flex flex-wrap items-start gap-1.5 *:pointer-events-auto">
      <Choice
        label="What is shown"
        value={stage.shown ?? 'lit'}
        options={options}
        onChange={(value) => actions.setStage({ shown: value === 'lit' ? null : value })}
        className="h-6 max-w-52"
      />
      {stage.shown !== null && (
        <span className="rounded bg-raised">
          <ToolButton icon={X} word="Back to the lit material" onClick={() => actions.setStage({ shown: null })} />
        </span>
      )}
      <span className="flex-1" />
      <Segments
        label="View"
        value={stage.mode}
        options={[
          { value: 'model', word: 'Shape' },
          { value: 'flat', word: 'Flat' },
        ]}
        onChange={(mode) => actions.setStage({ mode })}
      />
      {stage.mode === 'model' && (
        <Choice
          label="Shape"
          value={stage.shape}
          options={SHAPES}
          onChange={(shape) => actions.setStage({ shape: shape as typeof stage.shape })}
          className="h-6"
        />
      )}
      <Choice
        label="Tiles along a side"
        value={String(stage.repeat)}
        options={REPEATS.map((n) => ({ value: String(n), word: `${n} × ${n}` }))}
        onChange={(n) => actions.setStage({ repeat: Number(n) })}
        className="h-6"
      />
      <span className="flex rounded bg-raised">
        {stage.mode === 'flat' && (
          <button
            type="button"
            aria-label="One texel a pixel"
            title="One texel a pixel"
            onClick={() => onOneToOne(width)}
            className="px-1.5 font-mono text-[11px] text-ink-soft hover:text-ink"
          >
            1:1
          </button>
        )}
        <ToolButton icon={Maximize} word="Show all of it" onClick={onFit} />
        <LightMenu />
        {compared && (
          <ToolButton icon={X} word="End the comparison" onClick={() => actions.setView({ compared: null })} />
        )}
      </span>
    </div>
  )
}

function LightMenu() {
  const actions = useActions()
  const stage = useView((view) => view.stage)
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <button
          type="button"
          aria-label="Light"
          title="Light: environment, turn, exposure"
          className="grid size-[24px] place-items-center rounded text-ink-soft hover:text-ink"
        >
          <Sun size={14} aria-hidden />
        </button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          aria-label="Light"
          className="z-40 flex w-80 flex-col gap-2 rounded-lg border border-rule-strong bg-panel p-3 shadow-lg"
        >
          <Segments
            label="Environment"
            value={stage.environment}
            options={ENVIRONMENTS.map((value) => ({ value, word: value }))}
            onChange={(environment) => actions.setStage({ environment })}
          />
          <NumberField
            label="Turn"
            help="Turns the environment around you. Arrow keys on the stage do it too."
            unit="turn"
            min={0}
            max={1}
            standard={0}
            value={stage.turn}
            onDrag={(turn) => actions.setStage({ turn })}
            onDrop={() => {}}
          />
          <NumberField
            label="Exposure"
            unit="stops"
            min={-8}
            max={8}
            usual={[-4, 4]}
            standard={0}
            value={stage.exposure}
            onDrag={(exposure) => actions.setStage({ exposure })}
            onDrop={() => {}}
          />
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-accent"
              checked={stage.displaced}
              onChange={(event) => actions.setStage({ displaced: event.target.checked })}
            />
            Height displaces the plane
          </label>
          <Button
            look="quiet"
            className="self-start"
            onClick={() => actions.setStage({ turn: 0, exposure: 0, environment: 'overcast' })}
          >
            <RotateCw size={13} aria-hidden /> As at the start
          </Button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

/** The values of every channel under the pointer. */
function Probe({ renderer, area }: { renderer: StageRenderer; area: React.RefObject<HTMLDivElement | null> }) {
  const { evaluation } = useMaterial()
  const document = useDocument()
  const [found, setFound] = useState<{ u: number; v: number; values: Values } | null>(null)
  useEffect(() => {
    const element = area.current!
    let busy = false
    let next: PointerEvent | null = null
    const look = async (event: PointerEvent): Promise<void> => {
      next = event
      if (busy) return
      busy = true
      while (next) {
        const { clientX, clientY } = next
        next = null
        const { left, top } = element.getBoundingClientRect()
        const spot = renderer.spotAt(clientX - left, clientY - top)
        setFound(spot ? { ...spot, values: await evaluation.probe(spot.lane, spot.u, spot.v) } : null)
      }
      busy = false
    }
    const move = (event: PointerEvent): void => void look(event)
    const leave = (): void => {
      next = null
      setFound(null)
    }
    element.addEventListener('pointermove', move)
    element.addEventListener('pointerleave', leave)
    return () => {
      element.removeEventListener('pointermove', move)
      element.removeEventListener('pointerleave', leave)
    }
  }, [renderer, evaluation, area])
  const titles = new Map(channelsOf(document).map(({ id, title }) => [id, title.toLowerCase()]))
  return (
    <p
      data-probe
      className="pointer-events-none absolute inset-x-2 bottom-2 rounded-md leading-snug bg-raised px-2.5 py-1 font-mono text-[11px]"
    >
      {found ? (
        <>
          u {found.u.toFixed(3)} v {found.v.toFixed(3)}
          {found.values.map(({ channel, type, values }) => (
            <span key={channel}>
              {'  '}
              <span className="text-ink-soft">{PROBE_WORDS[channel] ?? titles.get(channel) ?? channel}</span>{' '}
              {type === 'colour' ? values.map(byteOf).join(' ') : values.map(short).join(' ')}
              {channel === 'height' && ` (${((values[0]! - 0.5) * document.heightMetres * 1000).toFixed(1)} mm)`}
            </span>
          ))}
        </>
      ) : (
        <span className="text-ink-soft">Point at the material to read its values.</span>
      )}
    </p>
  )
}

/** Words short enough that all channels fit the line. */
const PROBE_WORDS: Record<string, string> = {
  colour: 'colour',
  roughness: 'rough',
  metallic: 'metal',
  occlusion: 'occl',
  emission: 'emit',
  opacity: 'opac',
}

const short = (v: number): string => {
  const text = v.toFixed(3).replace(/\.?0+$/, '')
  return text === '-0' ? '0' : text.replace(/^(-?)0\./, '$1.')
}
