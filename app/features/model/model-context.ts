import { createContext, useContext } from 'react'
import type { PickedIds } from '#core/picked-ids'
import type { BakeSettings } from '#core/mesh/bake-settings'
import { optionsFor } from '#core/mesh/bake-settings'
import type { BakeOptions, Baker } from '#core/mesh/baker'
import type { LayoutChange } from '#core/mesh/layout-change'
import type { LayoutProblemKind } from '#core/mesh/layout-facts'
import { kindsFor, tilesOf } from '#core/mesh/mesh-data'
import type { LayoutMode } from '#runtime/browser/layout-painter'
import type { BroughtInAs } from '#core/mesh/brought-in'
import type { Asset } from '../../contracts/asset'
import type { MeshDataInfo, ModelPage } from '../../contracts/model'
import type { Packing } from '#core/texture/packing'
import type { ModelDelivery } from '../../contracts/model'
import type { PlacedOn } from '../../contracts/parts'
import type { MeshCell, MeshRun } from '../../contracts/run'
import type { ModelSurface } from '../../session/model/model-renderer.client'
import { counted } from '../../ui/words'

/** What the page of a model shows, none of which is saved. */
export interface ModelPageView {
  /** The chosen cell: a part, and a kind where one is chosen. */
  readonly part: number
  readonly kind: string | null
  readonly side: 'layout' | 'model'
  readonly layout: LayoutMode
  readonly padding: boolean
  /** Whether texels are pointed out at which the high twin was not met. */
  readonly missed: boolean
  readonly surface: ModelSurface
  readonly shows: 'low' | 'high' | 'both'
  readonly cage: boolean
  readonly isolated: boolean
  /** What of a layout is pointed out. */
  readonly problem: LayoutProblemKind | null
  /** IDs of a part that are being picked for a material. */
  readonly picks: PickedOn | null
  readonly tab: (typeof TABS)[number]
}

/** IDs of a part, of one kind. */
export interface PickedOn {
  readonly part: number
  readonly kind: 'piece-id' | 'island-id' | 'colour-id'
  readonly numbers: readonly number[]
}

const TABS = ['check', 'settings', 'materials', 'files'] as const

/** The tab of a name, as an address has it; the first for any other. */
export const tabNamed = (name: string | null): ModelPageView['tab'] => TABS.find((tab) => tab === name) ?? TABS[0]

export const FIRST_VIEW: ModelPageView = {
  part: 0,
  kind: null,
  side: 'layout',
  layout: 'islands',
  padding: false,
  missed: false,
  surface: 'baked',
  shows: 'low',
  cage: false,
  isolated: false,
  problem: null,
  picks: null,
  tab: 'check',
}

/** What is asked of the server; the page reloads when it is done. */
export type ModelRequest =
  | { readonly intent: 'settings'; readonly settings: Partial<BakeSettings> }
  | { readonly intent: 'bake'; readonly cells: readonly MeshCell[] }
  | { readonly intent: 'lay-out'; readonly change: LayoutChange }
  | { readonly intent: 'lay-out-as-came' }
  | {
      readonly intent: 'place'
      readonly part: number
      readonly ids?: PickedIds
      readonly material: string | null
    }
  | { readonly intent: 'place-new'; readonly part: number }
  | { readonly intent: 'layer-up'; readonly part: number }
  | { readonly intent: 'share'; readonly part: number; readonly with: number }
  | {
      readonly intent: 'deliver'
      readonly packing: Packing
      readonly width: number
      readonly dither: boolean
      readonly vertices?: string
    }
  | { readonly intent: 'remove'; readonly role: 'high' | 'cage' }
  | { readonly intent: 'rename'; readonly name: string }
  | ({
      readonly intent: 'bring-in'
      readonly udim: number
      readonly image: string
      readonly meaning: BroughtInAs
    } & MeshCell)

export interface ModelState {
  readonly model: ModelPage
  /** Work on this model, newest first. */
  readonly runs: readonly MeshRun[]
  readonly now: number
  /** Materials for parts, and which lies where. */
  readonly placed: PlacedOn
  readonly deliveries: readonly ModelDelivery[]
  readonly packings: readonly Packing[]
  /** Images of the library. */
  readonly images: readonly Asset[]
  readonly view: ModelPageView
  setView(change: Partial<ModelPageView> | ((before: ModelPageView) => Partial<ModelPageView>)): void
  send(request: ModelRequest): void
  /** Asks for cells to be baked as the settings stand. */
  bake(cells: readonly MeshCell[]): void
  /** Kinds that have a column. */
  readonly kinds: readonly Baker[]
  setKinds(names: readonly string[]): void
}

export const ModelContext = createContext<ModelState | null>(null)

export function useModel(): ModelState {
  const found = useContext(ModelContext)
  if (!found) throw new Error('outside the page of a model')
  return found
}

/** How a cell of the sheet stands. */
export type CellState =
  | { readonly state: 'missing' }
  | { readonly state: 'waiting' }
  | {
      readonly state: 'baking'
      readonly ratio: number
      readonly secondsLeft: number | null
      readonly data: MeshDataInfo | null
    }
  | { readonly state: 'ready'; readonly data: MeshDataInfo; readonly missed: number }
  | { readonly state: 'stale'; readonly data: MeshDataInfo; readonly missed: number }

/** Tiles that a part is baked in, as settings stand. */
export function tilesOfPart({ summary, settings }: ModelPage, part: number): readonly number[] {
  return tilesOf(summary.parts[part]?.layouts[settings.uvSet]?.tiles ?? [], settings)
}

export function cellState({ model, runs }: Pick<ModelState, 'model' | 'runs'>, part: number, kind: string): CellState {
  const tiles = tilesOfPart(model, part)
  const data = tiles.flatMap(
    (udim) => model.data.find((one) => one.part === part && one.kind === kind && one.udim === udim) ?? [],
  )
  const first = data[0] ?? null
  const fresh = data.length === tiles.length && data.every((one) => one.fresh)
  for (const run of runs) {
    if (run.request.do !== 'bake' || (run.state !== 'running' && run.state !== 'queued')) continue
    if (!run.request.cells.some((cell) => cell.part === part && cell.kind === kind)) continue
    const { detail } = run
    if (run.state === 'running' && detail?.part === part && detail.kinds.includes(kind) && detail.ratio < 1)
      return { state: 'baking', ratio: detail.ratio, secondsLeft: detail.secondsLeft, data: first }
    if (!fresh) return { state: 'waiting' }
  }
  if (!first) return { state: 'missing' }
  const missed = data.reduce((sum, one) => sum + one.missed, 0)
  return { state: fresh ? 'ready' : 'stale', data: first, missed }
}

/** Cells of shown kinds that are missing or stale, where the part has UVs. */
export function missingCells(state: Pick<ModelState, 'model' | 'runs' | 'kinds'>): MeshCell[] {
  const { model, kinds } = state
  return model.summary.parts.flatMap((part, i) =>
    part.layouts.length <= model.settings.uvSet
      ? []
      : kinds.flatMap(({ name }) =>
          ['missing', 'stale'].includes(cellState(state, i, name).state) ? [{ part: i, kind: name }] : [],
        ),
  )
}

/** How far a model is baked. */
export function bakedInWords(state: Pick<ModelState, 'model' | 'runs' | 'kinds'>): string {
  const { summary, settings } = state.model
  const bare = summary.parts.filter(({ layouts }) => layouts.length <= settings.uvSet).length
  const lacking = settings.uvSet === 0 ? 'UVs' : `UV set ${settings.uvSet + 1}`
  if (bare === summary.parts.length) return `■ nothing can be baked: no ${lacking}`
  const missing = missingCells(state).length
  const rest = bare === 0 ? '' : `; ${counted(bare, 'part')} without ${lacking}`
  return (missing === 0 ? '● all shown kinds are baked' : `○ ${missing} to bake`) + rest
}

/** Kinds that can be made of a model. */
export const kindsOfModel = ({ high, summary, settings }: ModelPage): Baker[] =>
  kindsFor({ high: high !== null, colours: summary.colours, texture: settings.transferImage !== null })

/** Columns of a model that nobody has chosen for yet. */
export const USUAL_KINDS = ['normal', 'occlusion', 'curvature', 'rounded-edge', 'position', 'thickness', 'material-id']

/** The options that a model is baked by as its settings stand. */
export function optionsOfModel({ settings, summary: { box } }: ModelPage): BakeOptions {
  const positions = Float32Array.from([...box.min, ...box.max])
  return optionsFor(settings, { positions, triangles: Uint32Array.from([0, 1]) })
}

/** Numbers with one more, or without it where it was among them; in order. */
export const toggled = (numbers: readonly number[], one: number): number[] =>
  (numbers.includes(one) ? numbers.filter((other) => other !== one) : [...numbers, one]).sort((a, b) => a - b)
