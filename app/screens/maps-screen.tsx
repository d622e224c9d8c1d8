import { channelOutput } from '#core/document/address'
import { isFileOutput } from '#core/texture/stage-output'
import { useCallback, useEffect, useMemo, useState } from 'react'
import type { Channel } from '#core/document/channels'
import { deliverableChannels } from '#core/document/channels'
import type { MaterialDocument } from '#core/document/document'
import { kindsRead } from '#core/graph/kinds-read'
import { registry } from '#core/nodes/registry.generated'
import { channelsHeld } from '#core/texture/packing'
import { ask } from '../session/ask'
import type { StoredPacking } from '../contracts/stored-packing'
import { Overlays } from '../features/palette/palette'
import { DocumentBar, DocumentScreen, StatusLine, StepPair } from '../session/parts/document-frame'
import { useScreenKeys } from '../session/parts/screen-keys'
import { SideTabs } from '../session/parts/side-tabs'
import { useActions, useEvaluation, useMaterial, usePlacement, useView } from '../session/material'
import { shownPart } from '../session/placement'
import { Stage } from '../features/stage/stage'
import { Tour } from '../features/guide/tour'
import { CheckPane, useFindings } from '../features/maps/check-pane'
import { mapsCommands } from '../features/maps/commands'
import { CompareDialog } from '../features/maps/compare-dialog'
import { Deliveries } from '../features/maps/deliveries'
import type { Delivering } from '../features/maps/deliveries-context'
import { DeliveringContext, useDelivering } from '../features/maps/deliveries-context'
import { MakeButton, MakePane, useMake } from '../features/maps/make-pane'
import type { Maps } from '../features/maps/maps'
import {
  MapsContext,
  createMapsView,
  useChannels,
  useMaps,
  useMapsView,
  usePackings,
  useMade,
} from '../features/maps/maps'
import { browserHost } from '../features/maps/packing-host'
import { openPackings } from '../features/maps/packing-store'
import { useFiles, useSizeFor } from '../features/maps/files'
import { PackingSheet } from '../features/maps/packing-sheet'
import { recallSettings, rememberSettings } from '../features/maps/settings'
import { HistogramPane } from '../features/maps/histogram-pane'
import { StageStrip, useMips } from '../features/maps/stage-strip'
import { SLOT_NAMES } from '../features/maps/slot-words'

const USUAL = 'occlusion-rough-metal-y-up'

/** Maps of a material: which channel goes where, whether it will do, making it, and what was delivered. */
export function MapsScreen({
  delivering,
  packings: list,
}: {
  delivering: Delivering
  packings: readonly StoredPacking[]
}) {
  const { id, control } = useMaterial()
  const [maps] = useState((): Maps => {
    const channels = () => deliverableChannels(control.store.getState().document)
    const last = delivering.runs[0]?.request.packing.name
    const name = list.some(({ packing }) => packing.name === last) ? last! : USUAL
    const packings = openPackings({ list, name }, channels, browserHost(delivering.project.id))
    const first = packings.store.getState().packing.files[0]?.map ?? 'colour'
    return { packings, view: createMapsView(first) }
  })
  // What the browser remembers comes after the page has come alive, as the server knows nothing of it.
  useEffect(() => {
    const { packing, settings } = recallSettings(id)
    if (packing) maps.packings.choose(packing)
    maps.view.setState({ settings })
    return maps.view.subscribe(({ settings: now }, before) => {
      if (now !== before.settings) rememberSettings(id, { settings: now })
    })
  }, [id, maps])
  useEffect(
    () =>
      maps.packings.store.subscribe(({ packing: { name } }, before) => {
        if (name !== before.packing.name) rememberSettings(id, { packing: name })
      }),
    [id, maps],
  )
  return (
    <DeliveringContext.Provider value={delivering}>
      <MapsContext.Provider value={maps}>
        <Screen />
      </MapsContext.Provider>
    </DeliveringContext.Provider>
  )
}

function Screen() {
  const { packings } = useMaps()
  const { project } = useDelivering()
  const undo = usePackings((state) => state.undo.at(-1)?.label ?? null)
  const redo = usePackings((state) => state.redo.at(-1)?.label ?? null)
  return (
    <DocumentScreen
      bar={
        <DocumentBar project={project} here="maps" aside={<MakeButton />}>
          <StepPair undo={undo} redo={redo} onUndo={packings.undo} onRedo={packings.redo} />
        </DocumentBar>
      }
      left={{
        word: 'files',
        percent: 60,
        minPixels: 480,
        panes: [
          { shows: <PackingSheet />, percent: 70, minPixels: 160 },
          { shows: <Deliveries />, percent: 30, minPixels: 80 },
        ],
      }}
      right={{
        word: 'stage',
        panes: [
          { shows: <Look />, percent: 50, minPixels: 160 },
          { shows: <SidePane />, percent: 50, minPixels: 100 },
        ],
      }}
    >
      <Evaluating />
      <ScreenKeys />
      <StatusBar />
      <CompareDialog />
      <MapsOverlays />
      <MapsTour />
    </DocumentScreen>
  )
}

function MapsOverlays() {
  const material = useMaterial()
  const maps = useMaps()
  const { make } = useMake()
  return <Overlays commands={(other, setTheme) => mapsCommands(material, maps, make, other, setTheme)} />
}

/** The stage, with the files beside the source. */
function Look() {
  const shown = useView((one) => one.stage.shown)
  const { mode, from, mip } = useMapsView((one) => one.delivered)
  const marked = useMapsView((one) => one.marked)
  const { deliveries } = useDelivering()
  const { files } = useFiles()
  const { width, height } = useMips().find(({ level }) => level === mip) ?? { width: 0, height: 0 }
  const delivery = deliveries.find(({ id }) => id === from)
  const delivers = useDelivered()
  const extraOutputs = useMemo(
    () =>
      files.flatMap(({ map, slots }) => [
        { output: { kind: 'file', map } as const, word: `file ${map}` },
        ...slots.map((_, slot) => ({
          output: { kind: 'slot', map, slot } as const,
          word: `file ${map}, ${SLOT_NAMES[slot]}`,
        })),
      ]),
    [files],
  )
  const packed = useMemo(() => {
    const whole = isFileOutput(shown) || mode === 'delivered' || mode === 'difference'
    if (mode === 'source' && !whole) return null
    if (mode === 'difference') return { name: `what is lost, ${width} × ${height}`, now: 'source', whole }
    const name = `${delivery ? `delivery #${delivery.number ?? '?'}` : 'as packed'}, ${width} × ${height}`
    return { name, now: 'source', whole }
  }, [shown, mode, delivery, width, height])
  return (
    <div className="flex h-full min-h-0 flex-col">
      <StageStrip />
      <div className="min-h-0 flex-1">
        <Stage packed={packed} marks={marked?.marks} extraOutputs={extraOutputs} delivers={delivers} readOnly />
      </div>
    </div>
  )
}

/** Channels that the packing on screen holds; none where it cannot be made. */
function useDelivered(): readonly Channel[] {
  const { resolved } = useFiles()
  const channels = useChannels()
  return useMemo(() => (resolved ? channelsHeld(resolved, channels) : []), [resolved, channels])
}

/** Channels that can be made as things are: those of mesh data that are not baked only where the packing asks for them. */
function useShownChannels(): readonly Channel[] {
  const { id } = useMaterial()
  const channels = useChannels()
  const delivered = useDelivered()
  const data = usePlacement((one) => shownPart(one, id)?.part.facts.data)
  return useMemo(
    () =>
      channels.filter(
        (channel) =>
          !channel.derived?.onPart ||
          delivered.includes(channel) ||
          kindsRead({ nodes: {}, channels: {} }, registry, { delivery: [channel] }).every(
            (kind) => data?.[kind] !== undefined,
          ),
      ),
    [channels, delivered, data],
  )
}

/** Asks the workers for what is on screen whenever that changes. */
function Evaluating() {
  const { evaluation, view } = useMaterial()
  const channels = useShownChannels()
  const width = useView((one) => one.width)
  const look = useView((one) => one.stage.look)
  const shown = useView((one) => one.stage.shown)
  const delivered = useMapsView((one) => one.delivered)
  const settings = useMapsView((one) => one.settings)
  const tab = useMapsView((one) => one.tab)
  const packing = usePackings((state) => state.packing)
  const state = useEvaluation((one) => one.state)
  const record = useRecord(delivered.from)
  const { files } = useFiles()

  // Beside a delivery stands the material as it was when it was made.
  const made = useMade()
  const seen = delivered.mode === 'beside' && record ? record.document : made
  const wanted = useMemo(
    () => ({
      document: seen,
      width,
      shown: isFileOutput(shown) ? null : shown,
      look,
      swatches: channels.map(({ id }) => channelOutput(id)),
      layerColours: [],
      histograms: [],
    }),
    [seen, channels, width, shown, look],
  )
  // On another part, or with other mesh data, it is another picture.
  const placed = usePlacement((one) => one)
  useEffect(() => evaluation.want(wanted), [evaluation, wanted, placed])

  const size = useSizeFor()(settings.width)
  const { width: filesWide, height: filesHigh } = typeof size === 'string' ? { width: 0, height: 0 } : size
  // After the sharp picture: both would take longer side by side.
  const ready = state === 'sharp' || state === 'failed'
  const { sharpen, dither } = settings
  const packedNow = useMemo(
    () => ({ document: made, width, from: { packing, sharpen, dither } }),
    [made, width, packing, sharpen, dither],
  )
  useEffect(() => {
    if (!ready || filesWide === 0) return
    const report = tab === 'make' ? null : { width: filesWide, height: filesHigh }
    void evaluation.pack({ ...packedNow, want: { kind: 'packing', report } })
  }, [evaluation, packedNow, ready, tab, filesWide, filesHigh])

  const looking = delivered.mode !== 'source' || isFileOutput(shown)
  const { from, mip, mode } = delivered
  useEffect(() => {
    if (!ready || !looking) return
    const want = { kind: 'delivered', mip, shown, difference: mode === 'difference' } as const
    if (from === 'now') void evaluation.pack({ ...packedNow, want })
    else if (record) void evaluation.pack({ document: record.document, width, from: { delivery: from, record }, want })
  }, [evaluation, packedNow, record, ready, looking, from, mip, mode, shown, width])

  // A file that was renamed or taken out cannot be looked at any more.
  useEffect(() => {
    const map = isFileOutput(shown) ? shown.map : null
    if (map !== null && !files.some((file) => file.map === map)) {
      const { stage } = view.getState()
      view.setState({ stage: { ...stage, shown: null } })
    }
  }, [view, shown, files])

  // Other screens know nothing of files.
  useEffect(
    () => () => {
      const { stage } = view.getState()
      if (isFileOutput(stage.shown)) view.setState({ stage: { ...stage, shown: null } })
    },
    [view],
  )
  return null
}

/** The record of a delivery, once it has come. */
function useRecord(from: string): { document: MaterialDocument } | null {
  const [found, setFound] = useState<{ from: string; record: never } | null>(null)
  const actions = useActions()
  useEffect(() => {
    if (from === 'now') return
    let wanted = true
    void ask(`/deliveries/${from}/record.json`).then(
      async (response) => {
        const record = (await response.json()) as never
        if (wanted && response.ok) setFound({ from, record })
      },
      () => actions.notify('▲ Cannot reach the server: the delivery cannot be read.'),
    )
    return () => {
      wanted = false
    }
  }, [from, actions])
  return found?.from === from ? found.record : null
}

function SidePane() {
  const { view } = useMaps()
  const tab = useMapsView((one) => one.tab)
  const found = useFindings()
  const checking = useEvaluation((one) => one.packing.state === 'working')
  return (
    <SideTabs
      label="Before delivery"
      guide="check"
      tabs={[
        {
          value: 'check',
          word: found ? `Check ${found.total > 0 ? `▲ ${found.total}` : '●'}` : 'Check',
          shows: <CheckPane />,
        },
        { value: 'histogram', word: 'Histogram', shows: <HistogramPane /> },
        { value: 'make', word: 'Make', guide: 'make', shows: <MakePane /> },
      ]}
      value={tab}
      onChange={(next) => view.setState({ tab: next })}
      aside={
        tab === 'check' &&
        found && (
          <span className="pb-1.5 font-mono text-note text-ink-soft">
            {checking ? '◌ checking' : `${found.rules} rules`}
          </span>
        )
      }
    />
  )
}

/** The walk, which waits for a bake here. */
function MapsTour() {
  const { runs } = useDelivering()
  return <Tour here="maps" newestRun={runs[0]?.id ?? null} />
}

function StatusBar() {
  const marked = useMapsView((view) => view.marked)
  const found = useFindings()
  const { runs } = useDelivering()
  const busy = runs.filter(({ state }) => state === 'running' || state === 'queued')
  return (
    <StatusLine first={marked && <span role="status">▲ {marked.words}</span>}>
      {found && (
        <span className="shrink-0">
          {found.total > 0 ? `▲ ${found.total} to look at before delivery` : '● ready to deliver'}
        </span>
      )}
      {busy[0] && (
        <span className="shrink-0 font-mono">
          {busy[0].request.width} bake: {Math.round(busy[0].progress * 100)} %
          {busy.length > 1 && `, ${busy.length - 1} more`}
        </span>
      )}
    </StatusLine>
  )
}

function ScreenKeys() {
  const { packings, view } = useMaps()
  const escape = useCallback((typing: boolean): void => void (typing || view.setState({ marked: null })), [view])
  useScreenKeys({ undo: packings.undo, redo: packings.redo, escape })
  return null
}
