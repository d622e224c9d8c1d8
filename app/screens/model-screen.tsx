import { useEffect, useMemo, useState, useSyncExternalStore } from 'react'
import { Group, Panel } from 'react-resizable-panels'
import { useFetcher, useSearchParams } from 'react-router'
import { z } from 'zod'
import type { BakeSettings } from '#core/mesh/bake-settings'
import { bakerNamed } from '#core/mesh/mesh-data'
import type { Asset } from '../contracts/asset'
import type { ModelPage } from '../contracts/model'
import type { MeshCell, MeshRun } from '../contracts/run'
import { BakeSettingsPane } from '../features/model/bake-settings'
import { BeforeBake } from '../features/model/before-bake'
import { DataSheet } from '../features/model/data-sheet'
import type { ModelPageView, ModelRequest } from '../features/model/model-context'
import {
  FIRST_VIEW,
  ModelContext,
  USUAL_KINDS,
  kindsOfModel,
  bakedInWords,
  tabNamed,
} from '../features/model/model-context'
import { ModelFiles } from '../features/model/model-files'
import { RightPane } from '../features/model/right-pane'
import { SideTabs } from '../session/parts/side-tabs'
import { secondsLeft, useNow, useRuns } from '../session/runs/use-runs'
import { useReload } from '../session/use-reload'
import { useSends } from '../session/use-sends'
import { recall, remember } from '../ui/browser-storage'
import { Button } from '../ui/button'
import { Divider } from '../ui/divider'
import { PartMaterials } from '../features/model/part-materials'
import type { ModelDelivery } from '../contracts/model'
import type { PlacedOn } from '../contracts/parts'
import type { Packing } from '#core/texture/packing'
import { RenameInput } from '../ui/rename-input'
import { TopBar } from '../ui/top-bar'
import { progressInWords, secondsInWords } from '../ui/words'

const never = (): (() => void) => () => {}
const kindNames = z.array(z.string()).min(1)

/** A model: how it lies in UVs, what was baked of it, and the files that it is made of. */
export function ModelScreen({
  model: loadedModel,
  runs: loaded,
  images,
  placed: loadedPlaced,
  deliveries,
  packings,
  now: loadedAt,
}: {
  model: ModelPage
  runs: readonly MeshRun[]
  images: readonly Asset[]
  placed: PlacedOn
  deliveries: readonly ModelDelivery[]
  packings: readonly Packing[]
  now: number
}) {
  const { send, waiting, data } = useSends<ModelRequest, { problem?: string }>('json')
  const cancelling = useFetcher()
  const reload = useReload()
  const runs = useRuns(loaded, `model:${loadedModel.id}`)
  const busy = runs.find(({ state }) => state === 'running') ?? runs.find(({ state }) => state === 'queued')
  const now = useNow(loadedAt, busy !== undefined)
  const [search] = useSearchParams()
  const [view, change] = useState<ModelPageView>(() => ({ ...FIRST_VIEW, tab: tabNamed(search.get('tab')) }))
  const [picked, setPicked] = useState<readonly string[] | null>(null)
  const key = `amber-grist-kinds:${loadedModel.id}`
  // What the browser remembers comes after the page has come alive, as the server knows nothing of it.
  const isAlive = useSyncExternalStore(
    never,
    () => true,
    () => false,
  )
  const chosen = useMemo(
    () => picked ?? (isAlive ? recall(key, kindNames) : null) ?? USUAL_KINDS,
    [picked, isAlive, key],
  )
  // Each cell is shown as soon as it is done.
  const done = runs.find(({ state }) => state === 'running')?.detail?.cellsDone
  useEffect(() => {
    if (done) reload()
  }, [done, reload])
  // What was asked for shows before the server has answered.
  const state = useMemo(() => {
    const asked = waiting.flatMap((one) => (one.intent === 'settings' ? [one.settings] : []))
    const model = { ...loadedModel, settings: Object.assign({}, loadedModel.settings, ...asked) as BakeSettings }
    const able = kindsOfModel(model)
    const onPart = { ...loadedPlaced.onPart }
    for (const one of waiting)
      if (one.intent === 'place' && !one.ids) {
        if (one.material === null) delete onPart[one.part]
        else onPart[one.part] = one.material
      }
    const kinds = able.filter(({ name }) => chosen.includes(name))
    return {
      model,
      runs,
      now,
      images,
      placed: { ...loadedPlaced, onPart },
      deliveries,
      packings,
      view: view.part < model.summary.parts.length ? view : { ...view, part: 0 },
      setView: (next: Partial<ModelPageView> | ((before: ModelPageView) => Partial<ModelPageView>)): void =>
        change((before) => ({ ...before, ...(typeof next === 'function' ? next(before) : next) })),
      send,
      bake: (cells: readonly MeshCell[]): void => send({ intent: 'bake', cells }),
      kinds: kinds.length > 0 ? kinds : able,
      setKinds: (names: readonly string[]): void => {
        setPicked(names)
        remember(key, names)
      },
    }
  }, [loadedModel, waiting, runs, now, images, loadedPlaced, deliveries, packings, view, chosen, key, send])
  const { model } = state
  return (
    <ModelContext value={state}>
      <div className="flex h-screen flex-col overflow-hidden">
        <TopBar
          place={[
            { name: 'Projects', to: '/' },
            { name: model.project.name, to: `/projects/${model.project.id}` },
            { name: model.name },
          ]}
          aside={<Rename name={model.name} onName={(name) => state.send({ intent: 'rename', name })} />}
        />
        <main className="min-h-0 flex-1">
          <h1 className="sr-only">{model.name}</h1>
          <Group orientation="horizontal" className="h-full">
            <Panel id="left" defaultSize="55%" minSize={420}>
              <Group orientation="vertical">
                <Panel id="above" defaultSize="58%" minSize={140}>
                  <DataSheet />
                </Panel>
                <Divider word="Height of the sheet" across={false} />
                <Panel id="below" minSize={120}>
                  <SideTabs
                    label="What the bake is made from"
                    guide="model-check"
                    value={view.tab}
                    onChange={(tab) => state.setView({ tab, picks: null })}
                    tabs={[
                      { value: 'check', word: 'Before you bake', shows: <BeforeBake /> },
                      { value: 'settings', word: 'Settings', shows: <BakeSettingsPane /> },
                      { value: 'materials', word: 'Materials', shows: <PartMaterials /> },
                      { value: 'files', word: 'Files', shows: <ModelFiles /> },
                    ]}
                  />
                </Panel>
              </Group>
            </Panel>
            <Divider word="Width of the sheet" across />
            <Panel id="right" minSize={320}>
              <RightPane />
            </Panel>
          </Group>
        </main>
        <footer className="flex h-7 shrink-0 items-center gap-4 border-t border-rule bg-panel px-3 text-note text-ink-soft">
          {data?.problem && <span role="alert">■ {data.problem}</span>}
          <span role="status">{busy ? busyInWords(busy, now) : stateInWords(state, runs[0])}</span>
          {busy && (
            <Button
              variant="quiet"
              className="py-0"
              onClick={() =>
                void cancelling.submit({ intent: 'cancel', id: busy.id }, { method: 'post', action: '/jobs' })
              }
            >
              Cancel
            </Button>
          )}
        </footer>
      </div>
    </ModelContext>
  )
}

function busyInWords(run: MeshRun, now: number): string {
  if (run.state === 'queued') return '◌ waits for a worker'
  const left = secondsLeft(run, now)
  const { detail, request } = run
  const what =
    request.do === 'lay out'
      ? 'changing the layout'
      : request.do === 'deliver'
        ? 'making the maps of all parts'
        : detail
          ? `baking ${detail.kinds.map((name) => bakerNamed(name).title.toLowerCase()).join(', ')}`
          : 'baking'
  return `◐ ${what}: ${progressInWords(run.progress)}${left === null ? '' : `, ${secondsInWords(left)} left`}`
}

function stateInWords(state: Parameters<typeof bakedInWords>[0], last: MeshRun | undefined): string {
  return last?.state === 'failed' ? `■ ${last.error ?? 'The last bake failed.'}` : bakedInWords(state)
}

function Rename({ name, onName }: { name: string; onName(name: string): void }) {
  const [renaming, setRenaming] = useState(false)
  if (!renaming) return <Button onClick={() => setRenaming(true)}>Rename</Button>
  return (
    <RenameInput
      label="Name of the model"
      name={name}
      onName={onName}
      onEnd={() => setRenaming(false)}
      className="px-1"
    />
  )
}
