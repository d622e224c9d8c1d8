import { useEffect, useMemo, useState } from 'react'
import type { PartMarks } from '../../session/model/model-renderer.client'
import { Download, FileJson, Repeat2 } from 'lucide-react'
import { LAYOUT_MODES } from '#runtime/browser/layout-painter'
import { bakerNamed } from '#core/mesh/mesh-data'
import { Button, buttonClasses } from '../../ui/button'
import { Choice, Segments } from '../../ui/choice'
import { counted } from '../../ui/words'
import type { PartPoint } from '#core/mesh/part-ids'
import { modelWorker } from '../../session/model/model-worker'
import { meshAddress, meshDataAddress } from '../../session/model/addresses'
import { ModelView } from '../../session/model/model-view'
import { lookOf } from '../../session/model/look'
import { BringIn } from './bring-in'
import { LayoutPane } from './layout-view'
import { cellState, toggled, useModel } from './model-context'

const LAYOUT_WORDS = { islands: 'Islands', density: 'Density', stretch: 'Stretch', checker: 'Checker', data: 'Data' }
const SURFACES = [
  { value: 'plain', word: 'Plain' },
  { value: 'baked', word: 'Baked' },
  { value: 'data', word: 'Data' },
  { value: 'checker', word: 'Checker' },
] as const

/** The chosen part: how it lies in UVs, or the model with what was baked of it. */
export function RightPane() {
  const state = useModel()
  const { model, view, setView } = state
  const part = model.summary.parts[view.part]
  const marks = usePickMarks()
  const press = (pressed: number, point: PartPoint): void => {
    const { picks } = view
    if (!picks) return setView({ part: pressed, problem: null })
    if (pressed !== picks.part) return
    void modelWorker()
      .idAt(meshAddress(model, 'low')!, pressed, model.settings.uvSet, picks.kind, point)
      .then((number) =>
        setView(({ picks: now }) => ({ picks: now && { ...now, numbers: toggled(now.numbers, number) } })),
      )
  }
  const kind = view.kind === null ? null : bakerNamed(view.kind)
  return (
    <section aria-label="Model" className="flex h-full min-h-0 flex-col bg-ground">
      <header className="flex h-10 shrink-0 items-center gap-2 px-3">
        <h2 className="min-w-0 truncate font-semibold">
          {part?.name}
          {kind && <span className="font-normal text-ink-soft"> · {kind.title}</span>}
        </h2>
        <span className="flex-1" />
        <Segments
          label="View"
          value={view.side}
          options={[
            { value: 'layout', word: 'Layout' },
            { value: 'model', word: 'Model' },
          ]}
          onChange={(side) => setView({ side })}
        />
      </header>
      <div className="relative min-h-0 flex-1">
        {view.side === 'layout' ? (
          <LayoutPane />
        ) : (
          <ModelView
            model={model}
            label={`${model.name} with ${view.surface === 'data' && kind ? kind.title : view.surface}`}
            look={lookOf(model, view)}
            marks={marks}
            onPart={press}
          />
        )}
        <div className="pointer-events-none absolute inset-x-2 top-2 flex flex-wrap gap-1.5 *:pointer-events-auto">
          {view.side === 'layout' ? (
            <>
              <Segments
                label="What islands show"
                value={view.layout}
                options={LAYOUT_MODES.filter((mode) => mode !== 'data' || view.kind !== null).map((value) => ({
                  value,
                  word: LAYOUT_WORDS[value],
                }))}
                onChange={(layout) => setView({ layout })}
              />
              {view.layout === 'data' && (
                <Toggle word="Missed rays" on={view.missed} onChange={(missed) => setView({ missed })} />
              )}
              <Toggle word="Padding" on={view.padding} onChange={(padding) => setView({ padding })} />
            </>
          ) : (
            <>
              <Segments
                label="What lies on it"
                value={view.surface}
                options={SURFACES.filter(({ value }) => value !== 'data' || view.kind !== null)}
                onChange={(surface) => setView({ surface })}
              />
              {model.high && (
                <Choice
                  label="Which model"
                  value={view.shows}
                  options={[
                    { value: 'low', word: 'the model' },
                    { value: 'high', word: 'its high twin' },
                    { value: 'both', word: 'both' },
                  ]}
                  onChange={(shows) => setView({ shows: shows as typeof view.shows })}
                />
              )}
              {model.cage && <Toggle word="Cage" on={view.cage} onChange={(cage) => setView({ cage })} />}
              {model.summary.parts.length > 1 && (
                <Toggle word="This part alone" on={view.isolated} onChange={(isolated) => setView({ isolated })} />
              )}
            </>
          )}
        </div>
      </div>
      {kind && <CellBar />}
    </section>
  )
}

/** Triangles that have the IDs that are being picked. */
function usePickMarks(): PartMarks | null {
  const { model, view } = useModel()
  const { picks } = view
  const address = meshAddress(model, 'low')!
  const { uvSet } = model.settings
  const [part, kind] = [picks?.part ?? null, picks?.kind ?? null]
  const [known, setKnown] = useState<{ readonly of: string; readonly numbers: Uint32Array } | null>(null)
  const of = `${address} ${part} ${kind} ${uvSet}`
  useEffect(() => {
    if (part === null || kind === null) return
    let wanted = true
    void modelWorker()
      .idsByTriangle(address, part, uvSet, kind)
      .then(
        (numbers) => wanted && setKnown({ of, numbers }),
        // The view of the model says what cannot be read.
        () => {},
      )
    return () => {
      wanted = false
    }
  }, [address, part, kind, uvSet, of])
  return useMemo(() => {
    if (!picks || known?.of !== of) return null
    const wanted = new Set(picks.numbers)
    return { part: picks.part, triangles: Uint8Array.from(known.numbers, (number) => (wanted.has(number) ? 1 : 0)) }
  }, [picks, known, of])
}

function Toggle({ word, on, onChange }: { word: string; on: boolean; onChange(on: boolean): void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={() => onChange(!on)}
      className="h-6 rounded-md border border-rule-strong bg-raised px-2 text-ink-soft hover:text-ink aria-pressed:bg-ink aria-pressed:text-ground"
    >
      {word}
    </button>
  )
}

/** What there is of the chosen cell, and what can be done with it. */
function CellBar() {
  const state = useModel()
  const { model, view, bake } = state
  const cell = cellState(state, view.part, view.kind!)
  const data = 'data' in cell ? cell.data : null
  const baker = bakerNamed(view.kind!)
  return (
    <footer className="flex min-h-9 shrink-0 flex-wrap items-center gap-2 border-t border-rule bg-panel px-3 py-1">
      <span className="min-w-0 basis-full text-note text-ink-soft">
        {data && `${data.width} × ${data.width}. `}
        {cell.state === 'ready' && cell.missed > 0 && (
          <span className="text-ink">
            ▲ At {counted(cell.missed, 'texel')} rays missed the high twin; they are filled from the nearest.{' '}
          </span>
        )}
        {baker.help}
      </span>
      {data && (
        <>
          <a href={meshDataAddress(model.id, data, 'file')} download className={buttonClasses('quiet')}>
            <Download size={14} aria-hidden /> Download
          </a>
          <a
            href={meshDataAddress(model.id, data, 'record')}
            target="_blank"
            rel="noreferrer"
            className={buttonClasses('quiet')}
          >
            <FileJson size={14} aria-hidden /> Record
          </a>
        </>
      )}
      <BringIn key={view.kind} />
      {data && (
        <a
          href={`/models/${model.id}/file?vertex=${view.kind!}&as=ply`}
          download
          className={buttonClasses('quiet')}
          title="The model as PLY with this as its vertex colours"
        >
          As vertex colours
        </a>
      )}
      {(cell.state === 'missing' || cell.state === 'stale') && (
        <Button onClick={() => bake([{ part: view.part, kind: view.kind! }])}>
          <Repeat2 size={14} aria-hidden /> {cell.state === 'missing' ? 'Bake it now' : 'Bake it again'}
        </Button>
      )}
    </footer>
  )
}
