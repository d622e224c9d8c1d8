import { Redo2, Search, Undo2 } from 'lucide-react'
import { Tabs } from 'radix-ui'
import { useEffect, useMemo, useState } from 'react'
import { Group, Panel, Separator } from 'react-resizable-panels'
import { wrap } from 'comlink'
import { alone, offable, toggled } from '#core/edits/focus'
import type { MaterialDocument } from '#core/graph/document'
import { channelsOf } from '#core/layers/expand'
import { registry } from '#core/nodes/registry.generated'
import type { CoordinatorCalls } from '../../../runtime/browser/coordinator.worker'
import type { Asset } from '../../server/assets.server'
import type { OpenDocument } from '../../server/documents.server'
import { Button } from '../../ui/button'
import { Choice } from '../../ui/choice'
import { TopBar } from '../../ui/top-bar'
import { counted } from '../../ui/words'
import { sendImage } from '../assets/send-image'
import { DialsBoard } from '../dials/dials-board'
import type { Editing, EditingControl } from '../editing/document-store'
import { useEditing } from '../editing/use-editing'
import type { Drawer } from '../evaluation/evaluation'
import { openEvaluation } from '../evaluation/evaluation'
import { Feeds } from '../feeds/feeds'
import { Overlays } from '../find/find-or-do'
import { FirstRunGuide } from '../guide/first-run-guide'
import { ChosenPane } from '../parameters/chosen-pane'
import { spreadOutput } from '../parameters/spread-output'
import { LayerSheet } from '../sheet/layer-sheet'
import { sheetOutputs, sheetRows } from '../sheet/rows'
import { Stage } from '../stage/stage'
import { StatesPane } from '../states/states-pane'
import { createActions } from './actions'
import type { Material } from './material'
import { MaterialContext, useActions, useDocument, useEvaluation, useMaterial, useView } from './material'
import { PREVIEW_WIDTHS, createView, isThere } from './view'

/** The workers' calls, waiting until the page is in a browser. */
function lateWorker(): { drawer: Drawer; start(): () => void } {
  let ready: (worker: ReturnType<typeof wrap<CoordinatorCalls>>) => void
  let worker = new Promise<ReturnType<typeof wrap<CoordinatorCalls>>>((resolve) => (ready = resolve))
  return {
    drawer: {
      draw: async (lane, request) => (await worker).draw(lane, request),
      probe: async (lane, u, v) => (await worker).probe(lane, u, v),
      example: async (type) => (await worker).example(type),
    },
    start: () => {
      const thread = new Worker(new URL('../../../runtime/browser/coordinator.worker.ts', import.meta.url), {
        type: 'module',
      })
      ready(wrap<CoordinatorCalls>(thread))
      return () => {
        thread.terminate()
        worker = new Promise((resolve) => (ready = resolve))
      }
    },
  }
}

/** A material: layers by channels, the nodes behind them, what is chosen, and the stage. */
export function MaterialScreen({
  opened,
  project,
  assets: listed,
}: {
  opened: OpenDocument
  project: { id: string; name: string }
  assets: readonly Asset[]
}) {
  const [editing, control] = useEditing(opened.id, opened)
  const [assets, setAssets] = useState(listed)
  const [{ fixed, worker }] = useState(() => {
    const worker = lateWorker()
    const view = createView()
    const addAsset = async (file: File): Promise<Asset | string> => {
      const sent = await sendImage(file)
      if (typeof sent !== 'string')
        setAssets((now) => (now.some(({ sha256 }) => sha256 === sent.sha256) ? now : [...now, sent]))
      return sent
    }
    const actions = createActions(control, view, addAsset)
    return {
      worker,
      fixed: { id: opened.id, control, view, actions, addAsset, evaluation: openEvaluation(worker.drawer) },
    }
  })
  const material: Material = useMemo(() => ({ ...fixed, assets }), [fixed, assets])
  useEffect(() => worker.start(), [worker])
  return (
    <MaterialContext.Provider value={material}>
      <div className="flex h-screen flex-col overflow-hidden">
        <Evaluating />
        <ScreenKeys />
        <TopBar
          place={[
            { name: 'Projects', to: '/' },
            { name: project.name, to: `/projects/${project.id}` },
            { name: editing.document.name },
          ]}
          aside={
            <Button onClick={() => material.actions.find({ kind: 'commands' })} title="Ctrl K">
              <Search size={13} aria-hidden /> Find or do…
            </Button>
          }
        >
          <span className="flex gap-1">
            <StepButton kind="undo" editing={editing} control={control} />
            <StepButton kind="redo" editing={editing} control={control} />
          </span>
        </TopBar>
        <Clash editing={editing} control={control} />
        <main className="min-h-0 flex-1">
          <h1 className="sr-only">{editing.document.name}</h1>
          <Group orientation="horizontal" className="h-full">
            <Panel defaultSize="50%" minSize={320}>
              <Group orientation="vertical">
                <Panel defaultSize="56%" minSize={120}>
                  <LayerSheet />
                </Panel>
                <Divider word="Height of the layers" across={false} />
                <Panel defaultSize="44%" minSize={80}>
                  <Feeds />
                </Panel>
              </Group>
            </Panel>
            <Divider word="Width of the layers" across />
            <Panel minSize={320}>
              <Group orientation="vertical">
                <Panel defaultSize="56%" minSize={120}>
                  <Stage />
                </Panel>
                <Divider word="Height of the stage" across={false} />
                <Panel defaultSize="44%" minSize={80}>
                  <SidePane />
                </Panel>
              </Group>
            </Panel>
          </Group>
        </main>
        <StatusBar editing={editing} />
        <Overlays />
        <FirstRunGuide />
      </div>
    </MaterialContext.Provider>
  )
}

function Divider({ word, across }: { word: string; across: boolean }) {
  return (
    <Separator
      aria-label={word}
      className={`bg-rule outline-offset-0 hover:bg-accent focus-visible:bg-accent ${across ? 'w-1' : 'h-1'}`}
    />
  )
}

/** Asks the workers for what is on screen whenever that changes. */
function Evaluating() {
  const { evaluation } = useMaterial()
  const actions = useActions()
  const document = useDocument()
  const place = useView((view) => view.place)
  const nodes = useView((view) => view.nodes)
  const folded = useView((view) => view.folded)
  const shown = useView((view) => view.stage.shown)
  const width = useView((view) => view.width)
  const aloneWith = useView((view) => view.alone)
  const held = useView((view) => view.held)
  const compared = useView((view) => view.compared)

  // What is drawn: the document as it is, or with something alone, or held off.
  const seen = useMemo((): MaterialDocument => {
    // What is gone cannot be alone.
    const one = aloneWith && offable(document, aloneWith) ? alone(document, aloneWith) : document
    return held ? toggled(one, held) : one
  }, [document, aloneWith, held])
  const wanted = useMemo(() => {
    const rows = sheetRows(document.layers, folded)
    const channels = channelsOf(document).map(({ id }) => id)
    const cards = Object.entries(document.nodes).flatMap(([id, node]) => {
      const [first] = Object.keys(registry.get(node.type)?.outputs ?? {})
      return first ? [`${id}.${first}`] : []
    })
    return {
      document: seen,
      width,
      shown,
      swatches: [...sheetOutputs(rows, channels, place), ...cards],
      bands: rows.map(({ layer }) => layer.id),
      spread: spreadOutput(document, nodes, place),
    }
  }, [seen, document, folded, place, nodes, shown, width])
  useEffect(() => evaluation.want(wanted), [evaluation, wanted])

  useEffect(() => {
    if (place && !isThere(document, place)) actions.setView({ place: null })
    if (nodes.some((id) => !document.nodes[id])) actions.setView({ nodes: nodes.filter((id) => document.nodes[id]) })
  }, [actions, document, place, nodes])

  useEffect(() => {
    if (!compared) return
    void evaluation
      .compare({ document: compared.document, width, shown, swatches: [], bands: [], spread: null })
      .then((problem) => problem && actions.tell(`■ ${compared.name}: ${problem}`))
  }, [evaluation, actions, compared, width, shown])
  return null
}

/** Keys that work wherever the keyboard is. */
function ScreenKeys() {
  const { control, view, actions } = useMaterial()
  useEffect(() => {
    const press = (event: KeyboardEvent): void => {
      const command = event.ctrlKey || event.metaKey
      const key = event.key.toLowerCase()
      const typing = (event.target as HTMLElement).matches?.('input, textarea, select, [contenteditable]')
      if (command && key === 'z') {
        event.preventDefault()
        if (event.shiftKey) control.redo()
        else control.undo()
      } else if (command && key === 'k') {
        event.preventDefault()
        actions.find({ kind: 'commands' })
      } else if (event.key === '?' && !typing) view.setState({ help: 'shortcuts' })
      else if (event.key === 'F6') {
        event.preventDefault()
        nextPane(event.shiftKey ? -1 : 1)
      } else if (event.key === 'Escape') {
        const { picking, alone } = view.getState()
        if (picking) view.setState({ picking: null, notice: null })
        else if (alone && !typing) view.setState({ alone: null })
      }
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  }, [control, view, actions])
  return null
}

/** Moves the keyboard to the next pane: to its grid cell, else to what Tab would reach first. */
function nextPane(by: 1 | -1): void {
  const panes = [...document.querySelectorAll<HTMLElement>('main section[aria-label][data-guide]')]
  const at = panes.findIndex((pane) => pane.contains(document.activeElement))
  const pane = panes[(at + by + panes.length) % panes.length]
  const target =
    pane?.querySelector<HTMLElement>('[data-at][tabindex="0"]') ??
    pane?.querySelector<HTMLElement>('button:not(:disabled), input, select, [tabindex="0"]')
  target?.focus()
}

const TABS = [
  { value: 'chosen', word: 'Chosen' },
  { value: 'dials', word: 'Dials' },
  { value: 'states', word: 'States' },
] as const

/** What is chosen, the dials, the states. */
function SidePane() {
  const actions = useActions()
  const tab = useView((view) => view.tab)
  return (
    <section aria-label="Settings" className="flex h-full min-h-0 flex-col bg-panel" data-guide="chosen">
      <Tabs.Root
        value={tab}
        onValueChange={(value) => actions.setView({ tab: value as typeof tab })}
        className="flex min-h-0 flex-1 flex-col"
      >
        <Tabs.List aria-label="Settings" className="flex h-10 shrink-0 items-end gap-4 border-b border-rule px-3">
          {TABS.map(({ value, word }) => (
            <Tabs.Trigger
              key={value}
              value={value}
              className="border-b-2 border-transparent pb-1.5 text-ink-soft data-[state=active]:border-accent data-[state=active]:font-semibold data-[state=active]:text-ink"
            >
              {word}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        {TABS.map(({ value }) => (
          <Tabs.Content key={value} value={value} tabIndex={-1} className="min-h-0 flex-1 overflow-auto">
            {value === 'chosen' ? <ChosenPane /> : value === 'dials' ? <DialsBoard /> : <StatesPane />}
          </Tabs.Content>
        ))}
      </Tabs.Root>
    </section>
  )
}

function StatusBar({ editing }: { editing: Editing }) {
  const actions = useActions()
  const width = useView((view) => view.width)
  const notice = useView((view) => view.notice)
  const aloneWith = useView((view) => view.alone)
  const state = useEvaluation((one) => one.state)
  const last = useEvaluation((one) => one.last)
  const latency = useEvaluation((one) => one.latency)
  return (
    <footer className="flex h-7 shrink-0 items-center gap-4 border-t border-rule bg-panel px-3 text-[11px] text-ink-soft">
      <span role="status" aria-label="Saved" className="shrink-0 font-mono">
        {savedInWords(editing)}
      </span>
      {aloneWith && (
        <Button look="quiet" onClick={() => actions.setView({ alone: null })}>
          ▲ shown alone; show all again (Escape)
        </Button>
      )}
      <span role="status" aria-label="Notice" className="min-w-0 flex-1 truncate text-ink">
        {notice}
      </span>
      {last && (
        <span
          className="shrink-0 font-mono"
          data-rough={latency.rough ?? ''}
          data-sharp={latency.sharp ?? ''}
          title={`First picture after ${Math.round(latency.rough ?? 0)} ms, sharp after ${Math.round(latency.sharp ?? 0)} ms; ${last.evaluated} steps evaluated, ${last.reused} kept`}
        >
          {state === 'sharp' ? '● sharp' : state === 'failed' ? '■ failed' : '◌ working'} {last.width} × {last.height},{' '}
          {counted(last.evaluated, 'step')} evaluated, {last.reused} kept, {Math.round(last.milliseconds)} ms
        </span>
      )}
      <label className="flex shrink-0 items-center gap-1.5">
        preview
        <Choice
          label="Preview size"
          value={String(width)}
          options={PREVIEW_WIDTHS.map(String)}
          onChange={(value) => actions.setView({ width: Number(value) as typeof width })}
          className="py-0"
        />
      </label>
    </footer>
  )
}

function savedInWords({ save, head, pending, problem }: Editing): string {
  const waiting = counted(pending.length, 'edit')
  if (save === 'saved') return `● saved, revision ${head}`
  if (save === 'saving') return '◌ saving'
  if (save === 'away') return `▲ the server is not there: ${waiting} kept here, sent when it is back`
  if (save === 'clash') return `▲ ${waiting} not saved: another tab changed the same part`
  return `■ not saved: ${problem ?? ''}`
}

function StepButton({ kind, editing, control }: { kind: 'undo' | 'redo'; editing: Editing; control: EditingControl }) {
  const next = editing[kind].at(-1)
  const word = kind === 'undo' ? 'Undo' : 'Redo'
  const Icon = kind === 'undo' ? Undo2 : Redo2
  return (
    <Button
      look="quiet"
      disabled={!next}
      onClick={control[kind]}
      aria-label={next ? `${word} ${next.label}` : word}
      title={next ? `${word} ${next.label} (${kind === 'undo' ? 'Ctrl Z' : 'Ctrl Shift Z'})` : `Nothing to ${kind}`}
    >
      <Icon size={16} aria-hidden />
    </Button>
  )
}

function Clash({ editing: { save, pending, problem }, control }: { editing: Editing; control: EditingControl }) {
  if (save !== 'clash' && save !== 'refused') return null
  return (
    <div role="alert" className="flex items-center gap-3 border-b border-rule-strong bg-raised px-4 py-2">
      {save === 'clash' ? (
        <>
          <span>
            ▲ Another tab changed the same part of this material while {counted(pending.length, 'edit')} here{' '}
            {pending.length === 1 ? 'was' : 'were'} not saved yet. Whichever you choose, the other stays in the history.
          </span>
          <Button look="main" onClick={() => control.keepMine()}>
            Keep mine on top
          </Button>
          <Button onClick={() => control.dropMine()}>Take the other</Button>
        </>
      ) : (
        <>
          <span>■ {problem}</span>
          <Button onClick={() => control.dropMine()}>Go back to what is saved</Button>
        </>
      )}
    </div>
  )
}
