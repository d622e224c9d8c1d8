import { Check, Columns3 } from 'lucide-react'
import { useRef } from 'react'
import type { Baker } from '#core/mesh/baker'
import { qualityOf } from '#core/mesh/bake-settings'
import { Button } from '../../ui/button'
import { Menu, MenuItem } from '../../ui/menu'
import { Tip } from '../../ui/tip'
import { counted, secondsInWords } from '../../ui/words'
import { meshDataAddress } from '../../session/model/addresses'
import type { CellState } from './model-context'
import { cellState, kindsOfModel, missingCells, useModel } from './model-context'

/** Parts × kinds: each cell is what was baked, how far it is, or that it is missing. */
export function DataSheet() {
  const state = useModel()
  const { model, kinds, view, setView, bake } = state
  const { size, samples, rays } = model.settings
  const missing = missingCells(state)
  const grid = useRef<HTMLTableElement>(null)
  const move = (event: React.KeyboardEvent): void => {
    const by = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[event.key]
    if (!by) return
    event.preventDefault()
    // From where the keyboard is, whether that is chosen or not.
    const [row, kind] =
      (event.target as HTMLElement).closest<HTMLElement>('[data-cell]')?.dataset.cell?.split(' ') ?? []
    const column = kinds.findIndex(({ name }) => name === kind)
    const part = Math.min(model.summary.parts.length - 1, Math.max(0, Number(row ?? view.part) + by[0]!))
    const at = Math.min(kinds.length - 1, Math.max(-1, column + by[1]!))
    choose(part, kinds[at]?.name ?? null)
    grid.current?.querySelector<HTMLElement>(`[data-cell="${part} ${kinds[at]?.name ?? ''}"]`)?.focus()
  }
  const choose = (part: number, kind: string | null): void =>
    setView({ part, kind, problem: null, ...(kind === null ? {} : { layout: 'data', surface: 'data' }) })
  const quality = qualityOf(model.settings)
  return (
    <section aria-label="Mesh data" className="flex h-full min-h-0 flex-col bg-ground">
      <header className="flex h-10 shrink-0 items-center gap-2 px-3">
        <h2 className="font-semibold">Mesh data</h2>
        <span className="min-w-0 truncate font-mono text-note text-ink-soft">
          {counted(model.summary.parts.length, 'part')} × {counted(kinds.length, 'kind')} · {size} ·{' '}
          {counted(samples, 'sample')} · {counted(rays, 'ray')}
          {quality && ` (${quality})`}
        </span>
        <span className="flex-1" />
        <Kinds />
        <Button
          variant="main"
          disabled={missing.length === 0}
          onClick={() => bake(missing)}
          title={missing.length === 0 ? 'All of it is made as the settings say' : undefined}
        >
          Bake what is missing{missing.length > 0 && ` (${missing.length})`}
        </Button>
      </header>
      <div className="min-h-0 flex-1 overflow-auto px-3 pb-3">
        <table ref={grid} role="grid" aria-label="Parts and kinds of mesh data" onKeyDown={move}>
          <thead>
            <tr>
              <th className="sticky left-0 z-10 min-w-36 bg-ground" />
              {kinds.map((kind) => (
                <KindHead key={kind.name} kind={kind} />
              ))}
            </tr>
          </thead>
          <tbody>
            {model.summary.parts.map((part, i) => (
              <tr key={i} className="border-t border-rule">
                <th scope="row" className="sticky left-0 z-10 max-w-48 bg-ground py-1 pr-3 text-left font-normal">
                  <button
                    type="button"
                    data-cell={`${i} `}
                    aria-pressed={view.part === i}
                    onClick={() => choose(i, null)}
                    className={`block w-full truncate rounded px-1.5 py-1 text-left ${view.part === i ? 'bg-panel' : 'hover:bg-panel'}`}
                  >
                    <span className="block truncate font-semibold" title={part.name}>
                      {part.name}
                    </span>
                    <span className="block truncate text-note text-ink-soft">
                      {counted(part.triangles, 'triangle')}
                      {part.material && `, ${part.material}`}
                    </span>
                  </button>
                </th>
                {kinds.map(({ name, title }) => (
                  <td key={name} className="p-1 align-middle">
                    <Cell
                      id={`${i} ${name}`}
                      name={`${title} of ${part.name}`}
                      state={part.layouts.length <= model.settings.uvSet ? null : cellState(state, i, name)}
                      chosen={view.part === i && view.kind === name}
                      onChoose={() => choose(i, name)}
                      onBake={() => bake([{ part: i, kind: name }])}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}

function KindHead({ kind }: { kind: Baker }) {
  return (
    <th scope="col" className="px-1 pb-1.5 text-left align-bottom font-normal text-ink-soft">
      <Tip text={kind.help}>
        <span tabIndex={0} className="block w-16 text-note leading-tight">
          {kind.title}
        </span>
      </Tip>
    </th>
  )
}

/** Which kinds have a column. */
function Kinds() {
  const { model, kinds, setKinds } = useModel()
  const all = kindsOfModel(model)
  const shown = new Set(kinds.map(({ name }) => name))
  const toggle = (name: string): void => {
    if (!shown.delete(name)) shown.add(name)
    if (shown.size > 0) setKinds(all.filter((one) => shown.has(one.name)).map((one) => one.name))
  }
  return (
    <Menu
      trigger={
        <Button>
          <Columns3 size={14} aria-hidden /> Kinds
        </Button>
      }
    >
      <MenuItem onSelect={() => setKinds(all.map(({ name }) => name))}>
        <span className="inline-block w-5" /> All of them
      </MenuItem>
      {all.map(({ name, title }) => (
        <MenuItem key={name} onSelect={() => toggle(name)}>
          <span className="inline-block w-5">{shown.has(name) && <Check size={13} aria-label="shown" />}</span>
          {title}
        </MenuItem>
      ))}
    </Menu>
  )
}

function Cell({
  id,
  name,
  state,
  chosen,
  onChoose,
  onBake,
}: {
  id: string
  name: string
  /** Null where the part has no UVs. */
  state: CellState | null
  chosen: boolean
  onChoose(): void
  onBake(): void
}) {
  const { model } = useModel()
  const ring = chosen ? 'outline-2 outline-offset-1 outline-accent' : ''
  const words = state === null ? 'no UVs' : wordsOf(state)
  return (
    <button
      type="button"
      data-cell={id}
      data-state={state?.state ?? 'no-uvs'}
      aria-label={`${name}: ${words}`}
      aria-pressed={chosen}
      title={`${words}${state?.state === 'missing' ? '. Double-press to bake it.' : ''}`}
      onClick={onChoose}
      onDoubleClick={() => state !== null && state.state !== 'ready' && onBake()}
      className={`relative block size-16 overflow-hidden rounded ${ring}`}
    >
      <Inside state={state} model={model.id} />
    </button>
  )
}

function wordsOf(state: CellState): string {
  switch (state.state) {
    case 'missing':
      return 'not baked yet'
    case 'waiting':
      return 'waits to be baked'
    case 'baking':
      return `baking, ${Math.round(state.ratio * 100)} %`
    case 'ready':
      return state.missed > 0 ? `baked; ${counted(state.missed, 'texel')} missed the high twin` : 'baked'
    case 'stale':
      return 'baked, but something has changed since'
  }
}

function Inside({ state, model }: { state: CellState | null; model: string }) {
  if (state === null)
    return (
      <span className="grid size-full place-items-center rounded border border-dashed border-rule-strong text-tiny text-ink-soft">
        no UVs
      </span>
    )
  if (state.state === 'missing')
    return <span className="block size-full rounded border border-dashed border-rule-strong" />
  if (state.state === 'waiting')
    return (
      <span className="grid size-full place-items-center rounded border border-dashed border-rule-strong text-tiny text-ink-soft">
        ◌ waits
      </span>
    )
  if (state.state === 'baking')
    return (
      <span className="flex size-full flex-col justify-center gap-1 rounded border border-rule-strong bg-panel px-1.5 text-left font-mono text-tiny text-ink-soft">
        <span className="h-1 overflow-hidden rounded-full bg-rule">
          <span className="block h-full bg-accent" style={{ width: `${state.ratio * 100}%` }} />
        </span>
        {Math.round(state.ratio * 100)} %
        {state.secondsLeft !== null && <span>{secondsInWords(state.secondsLeft)}</span>}
      </span>
    )
  return (
    <>
      <img
        src={meshDataAddress(model, state.data, 'swatch')}
        alt=""
        draggable={false}
        className={`size-full bg-view object-cover outline-1 -outline-offset-1 outline-ink/15 ${state.state === 'stale' ? 'opacity-45' : ''}`}
      />
      {state.state === 'stale' && (
        <span aria-hidden className="absolute right-0.5 bottom-0.5 rounded bg-panel px-1 text-tiny">
          stale
        </span>
      )}
      {state.state === 'ready' && state.missed > 0 && (
        <span aria-hidden className="absolute top-0.5 right-0.5 rounded bg-panel px-0.5 text-tiny">
          ▲
        </span>
      )}
    </>
  )
}
