import { isFileOutput } from '#core/texture/stage-output'
import { useCallback, useEffect, useMemo, useRef } from 'react'
import { useStore } from 'zustand'
import type { Output } from '#core/document/address'
import { formatOutput } from '#core/document/address'
import { solo, toggleable, without } from '#core/document/edits/focus'
import type { MaterialDocument } from '#core/document/document'
import { channelsOf } from '#core/document/channels'
import { registry } from '#core/nodes/registry.generated'
import { Button } from '../ui/button'
import { counted } from '../ui/words'
import { Clipboard } from '../features/clipboard/clipboard'
import { DialsBoard } from '../features/dials/dials-board'
import { NodesPane } from '../features/nodes/nodes-pane'
import { DrawingEditor } from '../features/drawing/drawing-editor'
import { ExchangeDialogs } from '../features/exchange/exchange'
import { Overlays } from '../features/palette/palette'
import { Tour } from '../features/guide/tour'
import { SelectionPane } from '../features/selection/selection-pane'
import { histogramOutputs, overlayOutput, withinOutput } from '../session/histogram-output'
import { LayerSheet } from '../features/sheet/layer-sheet'
import { sheetOutputs, sheetRows } from '../features/sheet/rows'
import { bandName } from '../session/engine/seen'
import { PreviewSize } from '../features/stage/preview-size'
import { Stage } from '../features/stage/stage'
import { StatesPane } from '../features/states/states-pane'
import { DocumentBar, DocumentScreen, StatusLine, StepButtons } from '../session/parts/document-frame'
import { useScreenKeys } from '../session/parts/screen-keys'
import { SideTabs } from '../session/parts/side-tabs'
import { useActions, useDocument, useEvaluation, useMaterial, usePlacement, useView } from '../session/material'
import { nodeTitle, placeInWords } from '../session/words/source-words'
import { isPresent } from '../session/view'

/** A material: layers by channels, the nodes behind them, what is chosen, and the stage. */
export function MaterialScreen({ project }: { project: { id: string; name: string } }) {
  return (
    <DocumentScreen
      bar={
        <DocumentBar project={project} here="material">
          <StepButtons />
        </DocumentBar>
      }
      left={{
        word: 'layers',
        percent: 50,
        minPixels: 320,
        panes: [
          { shows: <LayerSheet />, percent: 56, minPixels: 120 },
          { shows: <NodesPane />, percent: 44, minPixels: 80 },
        ],
      }}
      right={{
        word: 'stage',
        panes: [
          { shows: <Stage />, percent: 56, minPixels: 120 },
          { shows: <SidePane />, percent: 44, minPixels: 80 },
        ],
      }}
    >
      <Evaluating />
      <ScreenKeys />
      <Clipboard />
      <StatusBar />
      <Overlays />
      <DrawingEditor />
      <ExchangeDialogs />
      <Tour here="material" />
    </DocumentScreen>
  )
}

/** Asks the workers for what is on screen whenever that changes. */
function Evaluating() {
  const { control, evaluation, seen: onScreen } = useMaterial()
  const actions = useActions()
  const last = useRef<MaterialDocument | null>(null)
  const also = useView((view) => view.alsoLayers)
  const document = useDocument()
  const place = useView((view) => view.selection)
  const nodes = useView((view) => view.selectedNodes)
  const folded = useView((view) => view.folded)
  const shown = useView((view) => view.stage.shown)
  const look = useView((view) => view.stage.look)
  const width = useView((view) => view.width)
  const within = useView((view) => view.within)
  const soloed = useView((view) => view.solo)
  const hidden = useView((view) => view.without)
  const compared = useView((view) => view.compared)
  const versus = useView((view) => view.versus)
  const overlaid = useView((view) => view.overlayHeld || view.stage.overlay)
  const names = useStore(onScreen.store)

  // What is drawn: the document as it is, or with something alone, or held off.
  const seen = useMemo((): MaterialDocument => {
    // What is gone cannot be alone.
    const one = soloed && toggleable(document, soloed) ? solo(document, soloed) : document
    return hidden ? without(one, hidden) : one
  }, [document, soloed, hidden])
  const wanted = useMemo(() => {
    const rows = sheetRows(document.layers, folded)
    const channels = channelsOf(document).map(({ id }) => id)
    const cards = Object.entries(document.nodes).flatMap(([id, node]) => {
      const [first] = Object.keys(registry.get(node.type)?.outputs ?? {})
      return first ? [{ kind: 'port', node: id, port: first } as const] : []
    })
    const taps = Object.keys(document.taps).map((tap) => ({ kind: 'tap', tap }) as const)
    const bands = rows.map(({ layer }) => layer.id).filter((layer) => names.has(bandName(layer)))
    // A band is the mean of what its layer puts into colour.
    const behindBands = new Set(bands)
    const isSeen = (output: Output): boolean =>
      names.has(formatOutput(output)) ||
      ((output.kind === 'cell' || output.kind === 'layer') &&
        output.channel === 'colour' &&
        behindBands.has(output.layer))
    return {
      document: seen,
      width,
      shown: isFileOutput(shown) ? null : shown,
      look,
      overlay: overlaid ? overlayOutput(document, nodes, place) : null,
      swatches: [...sheetOutputs(rows, channels, place), ...cards, ...taps].filter(isSeen),
      layerColours: bands,
      histograms: histogramOutputs(document, nodes, place),
      within: withinOutput(document, within),
    }
  }, [seen, document, folded, place, nodes, shown, look, overlaid, width, names, within])
  // On another part, or with other mesh data, it is another picture.
  const placed = usePlacement((one) => one)
  useEffect(() => evaluation.want(wanted), [evaluation, wanted, placed])

  useEffect(() => {
    const before = last.current
    last.current = document
    const gone = nodes.filter((id) => !document.nodes[id])
    // What others deleted is told; what went with an own step was meant to.
    const byOthers = document === control.store.getState().fromOthers
    if (place && !isPresent(document, place)) {
      actions.setView({ selection: null })
      if (byOthers && before) actions.notify(`${placeInWords(before, place)} was deleted in another tab.`)
    }
    const left = also.filter((layer) => isPresent(document, { kind: 'layer', layer }))
    if (left.length < also.length) actions.setView({ alsoLayers: left })
    if (gone.length > 0) {
      actions.setView({ selectedNodes: nodes.filter((id) => document.nodes[id]) })
      if (byOthers && before)
        actions.notify(`${gone.map((id) => nodeTitle(before, id)).join(', ')} deleted in another tab.`)
    }
  }, [actions, control, document, place, also, nodes])

  useEffect(() => {
    for (const [half, state] of [
      ['comparison', compared],
      ['versus', compared && versus],
    ] as const)
      if (state)
        void evaluation
          .compare(half, {
            document: state.document,
            width,
            shown: isFileOutput(shown) ? null : shown,
            look,
            swatches: [],
            layerColours: [],
            histograms: [],
          })
          .then((problem) => problem && actions.notify(`■ ${state.name}: ${problem}`))
  }, [evaluation, actions, compared, versus, width, shown, look])
  return null
}

function ScreenKeys() {
  const { actions, view } = useMaterial()
  const escape = useCallback(
    (typing: boolean): void => {
      const { picking, pickingIds, solo } = view.getState()
      if (pickingIds) {
        view.setState({ pickingIds: null })
        return
      }
      if (picking) {
        view.setState({ picking: null })
        actions.notify(null)
      } else if (!typing && actions.endAudition()) return
      else if (solo && !typing) view.setState({ solo: null })
    },
    [view, actions],
  )
  useScreenKeys({ undo: actions.undo, redo: actions.redo, escape })
  return null
}

/** The selection, the dials, the states. */
function SidePane() {
  const actions = useActions()
  const tab = useView((view) => view.tab)
  return (
    <SideTabs
      label="Settings"
      guide="selection"
      tabs={[
        { value: 'selection', word: 'Selection', shows: <SelectionPane /> },
        { value: 'dials', word: 'Dials', shows: <DialsBoard /> },
        { value: 'states', word: 'States', shows: <StatesPane /> },
      ]}
      value={tab}
      onChange={(next) => actions.setView({ tab: next })}
    />
  )
}

function StatusBar() {
  const actions = useActions()
  const soloed = useView((view) => view.solo)
  const state = useEvaluation((one) => one.state)
  const last = useEvaluation((one) => one.last)
  const latency = useEvaluation((one) => one.latency)
  const progress = useEvaluation((one) => one.progress)
  return (
    <StatusLine
      first={
        soloed && (
          <Button variant="quiet" onClick={() => actions.setView({ solo: null })}>
            ▲ shown alone; show all again (Escape)
          </Button>
        )
      }
    >
      {last && (
        <span
          className="shrink-0 font-mono"
          data-rough={latency.rough ?? ''}
          data-sharp={latency.sharp ?? ''}
          title={`First picture after ${Math.round(latency.rough ?? 0)} ms, sharp after ${Math.round(latency.sharp ?? 0)} ms; ${last.evaluated} steps evaluated, ${last.reused} kept`}
        >
          {state === 'sharp' ? '● sharp' : state === 'failed' ? '■ failed' : '◌ working'}
          {state === 'rough' && progress !== null && ` ${Math.round(progress * 100)} %, now`} {last.width} ×{' '}
          {last.height}, {counted(last.evaluated, 'step')} evaluated, {last.reused} kept,{' '}
          {Math.round(last.milliseconds)} ms
        </span>
      )}
      <label className="flex shrink-0 items-center gap-1.5">
        preview
        <PreviewSize />
      </label>
    </StatusLine>
  )
}
