import { isFileOutput } from '#core/texture/stage-output'
import { Tabs } from 'radix-ui'
import { useEffect, useMemo } from 'react'
import { solo, toggleable, without } from '#core/document/edits/focus'
import type { MaterialDocument } from '#core/document/document'
import { channelsOf } from '#core/document/channels'
import { registry } from '#core/nodes/registry.generated'
import { Button } from '../ui/button'
import { Choice } from '../ui/choice'
import { counted } from '../ui/words'
import { DialsBoard } from '../features/dials/dials-board'
import { NodesPane } from '../features/nodes/nodes-pane'
import { Overlays } from '../features/palette/palette'
import { Tour } from '../features/guide/tour'
import { SelectionPane } from '../features/selection/selection-pane'
import { histogramOutput } from '../session/histogram-output'
import { LayerSheet } from '../features/sheet/layer-sheet'
import { sheetOutputs, sheetRows } from '../features/sheet/rows'
import { Stage } from '../features/stage/stage'
import { StatesPane } from '../features/states/states-pane'
import { DocumentBar, DocumentScreen, SavedWord, StepButtons } from '../session/parts/document-frame'
import { useActions, useDocument, useEvaluation, useMaterial, useView } from '../session/material'
import { PREVIEW_WIDTHS, isPresent } from '../session/view'

/** A material: layers by channels, the nodes behind them, what is chosen, and the stage. */
export function MaterialScreen({ project }: { project: { id: string; name: string } }) {
  const material = useMaterial()
  return (
    <DocumentScreen
      bar={
        <DocumentBar
          project={project}
          here="material"
          onFind={() => material.actions.openPalette({ kind: 'commands' })}
        >
          <StepButtons />
        </DocumentBar>
      }
      left={{
        word: 'layers',
        share: 50,
        least: 320,
        panes: [
          { shows: <LayerSheet />, share: 56, least: 120 },
          { shows: <NodesPane />, share: 44, least: 80 },
        ],
      }}
      right={{
        word: 'stage',
        panes: [
          { shows: <Stage />, share: 56, least: 120 },
          { shows: <SidePane />, share: 44, least: 80 },
        ],
      }}
    >
      <Evaluating />
      <ScreenKeys />
      <StatusBar />
      <Overlays />
      <Tour here="material" />
    </DocumentScreen>
  )
}

/** Asks the workers for what is on screen whenever that changes. */
function Evaluating() {
  const { evaluation } = useMaterial()
  const actions = useActions()
  const document = useDocument()
  const place = useView((view) => view.selection)
  const nodes = useView((view) => view.selectedNodes)
  const folded = useView((view) => view.folded)
  const shown = useView((view) => view.stage.shown)
  const width = useView((view) => view.width)
  const aloneWith = useView((view) => view.solo)
  const held = useView((view) => view.without)
  const compared = useView((view) => view.compared)

  // What is drawn: the document as it is, or with something alone, or held off.
  const seen = useMemo((): MaterialDocument => {
    // What is gone cannot be alone.
    const one = aloneWith && toggleable(document, aloneWith) ? solo(document, aloneWith) : document
    return held ? without(one, held) : one
  }, [document, aloneWith, held])
  const wanted = useMemo(() => {
    const rows = sheetRows(document.layers, folded)
    const channels = channelsOf(document).map(({ id }) => id)
    const cards = Object.entries(document.nodes).flatMap(([id, node]) => {
      const [first] = Object.keys(registry.get(node.type)?.outputs ?? {})
      return first ? [{ kind: 'port', node: id, port: first } as const] : []
    })
    return {
      document: seen,
      width,
      shown: isFileOutput(shown) ? null : shown,
      swatches: [...sheetOutputs(rows, channels, place), ...cards],
      layerColours: rows.map(({ layer }) => layer.id),
      histogram: histogramOutput(document, nodes, place),
    }
  }, [seen, document, folded, place, nodes, shown, width])
  useEffect(() => evaluation.want(wanted), [evaluation, wanted])

  useEffect(() => {
    if (place && !isPresent(document, place)) actions.setView({ selection: null })
    if (nodes.some((id) => !document.nodes[id]))
      actions.setView({ selectedNodes: nodes.filter((id) => document.nodes[id]) })
  }, [actions, document, place, nodes])

  useEffect(() => {
    if (!compared) return
    void evaluation
      .compare({
        document: compared.document,
        width,
        shown: isFileOutput(shown) ? null : shown,
        swatches: [],
        layerColours: [],
        histogram: null,
      })
      .then((problem) => problem && actions.notify(`■ ${compared.name}: ${problem}`))
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
        actions.openPalette({ kind: 'commands' })
      } else if (event.key === '?' && !typing) view.setState({ help: 'shortcuts' })
      else if (event.key === 'F6') {
        event.preventDefault()
        nextPane(event.shiftKey ? -1 : 1)
      } else if (event.key === 'Escape') {
        const { picking, solo } = view.getState()
        if (picking) view.setState({ picking: null, notice: null })
        else if (solo && !typing) view.setState({ solo: null })
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
  { value: 'selection', word: 'Selection' },
  { value: 'dials', word: 'Dials' },
  { value: 'states', word: 'States' },
] as const

/** What is chosen, the dials, the states. */
function SidePane() {
  const actions = useActions()
  const tab = useView((view) => view.tab)
  return (
    <section aria-label="Settings" className="flex h-full min-h-0 flex-col bg-panel" data-guide="selection">
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
            {value === 'selection' ? <SelectionPane /> : value === 'dials' ? <DialsBoard /> : <StatesPane />}
          </Tabs.Content>
        ))}
      </Tabs.Root>
    </section>
  )
}

function StatusBar() {
  const actions = useActions()
  const width = useView((view) => view.width)
  const notice = useView((view) => view.notice)
  const aloneWith = useView((view) => view.solo)
  const state = useEvaluation((one) => one.state)
  const last = useEvaluation((one) => one.last)
  const latency = useEvaluation((one) => one.latency)
  return (
    <footer className="flex h-7 shrink-0 items-center gap-4 border-t border-rule bg-panel px-3 text-[11px] text-ink-soft">
      <SavedWord />
      {aloneWith && (
        <Button look="quiet" onClick={() => actions.setView({ solo: null })}>
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
