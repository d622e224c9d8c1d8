import { CHANNELS, channelsOf } from '#core/document/channels'
import { createStore } from 'zustand/vanilla'
import type { Look } from '#core/preview/looks'
import { formatOutput } from '#core/document/address'
import type { MaterialDocument } from '#core/document/document'
import type { Conspicuous } from '#core/checks/conspicuous'
import type { NodeWeight } from '#core/material/weigh'
import type { DisplayBytes } from '#core/preview/display'
import { sameJson } from '#core/same-json'
import type {
  Fault,
  LargeForecast,
  PackOutcome,
  PackRequest,
  PackingPreview,
  PlaceFound,
  PlaceRequest,
  Preview,
  PreviewOutcome,
  DeliveredPreview,
  PreviewRequest,
  ProbedValue,
  Refusal,
  SwatchPicture,
  Textures,
  View,
} from '../../../runtime/browser/protocol'
import type { ExportedFile } from '#core/exchange/export-layers'
import type { ImportedPicture } from '#core/exchange/compare-import'
import type { EditorFile, ExportRequest } from '../../../runtime/browser/exchange'
import type { WindowRequest } from '../../../runtime/browser/delivered-window'
import { LARGE } from '../../../runtime/browser/protocol'
import { SentDocument } from './sent-document'

export type { PackRequest, Textures, View } from '../../../runtime/browser/protocol'

/** A swatch as a page keeps it; `changes` counts how often its picture has changed. */
export interface Swatch extends SwatchPicture {
  readonly changes: number
}

/** A half of a split that shows another document than the one worked on. */
export type SplitView = 'comparison' | 'versus'

/** How packing goes. */
interface PackState {
  readonly state: 'idle' | 'working' | 'done' | 'failed'
  readonly problem: string | null
}

/** What the workers have made so far. Outputs go by their texts (formatOutput). */
export interface Evaluation {
  readonly state: 'waiting' | 'rough' | 'sharp' | 'failed'
  readonly problem: string | null
  /** By view, and of what was delivered or would be. */
  readonly textures: Record<Exclude<View, 'packing'> | 'delivered', Textures>
  readonly swatches: Readonly<Record<string, Swatch>>
  readonly layerColours: Preview['layerColours']
  readonly histograms: Preview['histograms']
  /** Why some outputs could not be made, by output. */
  readonly faults: Readonly<Record<string, Fault>>
  readonly last: Pick<Preview, 'width' | 'height' | 'evaluated' | 'reused' | 'milliseconds'> | null
  /** How far the pass under way is, 0–1, where it takes a while. */
  readonly progress: number | null
  /** Milliseconds from the newest edit to its first and to its sharp picture. */
  readonly latency: { readonly rough: number | null; readonly sharp: number | null }
  /** What the packing makes of the channels: small pictures, checks, histograms. */
  readonly packing: PackState & Omit<PackingPreview, 'kind'>
  /** How far the textures of files are; they are kept with the others. */
  readonly delivered: PackState
  /** What files that were looked at are lit by. */
  readonly deliveredLook: Look
  /** What is lost in the file that is shown of it, and how often the difference is amplified that is. */
  readonly deliveredLoss: Pick<DeliveredPreview, 'loss' | 'gain'>
}

/** What is wanted on screen. */
export interface Wanted extends Omit<PreviewRequest, 'update' | 'width' | 'lit'> {
  readonly document: MaterialDocument
  /** Width of the sharp pass. */
  readonly width: number
}

/** What is wanted of a packing, or of a delivery. */
export interface WantedPacking extends Omit<PackRequest, 'update'> {
  readonly document: MaterialDocument
}

/** The coordinating worker, as it is reached from a page. */
export interface EngineClient {
  evaluatePreview(view: View, request: PreviewRequest): Promise<PreviewOutcome>
  pack(request: PackRequest): Promise<PackOutcome>
  probe(view: View, u: number, v: number): Promise<ProbedValue[]>
  /** Measures nodes: what they cost and do. What is kept for it goes with the end. */
  beginWeighing(document: MaterialDocument, width: number): Promise<void>
  weigh(node: string): Promise<NodeWeight | Refusal>
  endWeighing(): Promise<void>
  conspicuous(view: View, width: number): Promise<Conspicuous | Refusal | null>
  /** A part of a channel at the size it is delivered; a newer call cancels this one. */
  windowOf(
    document: MaterialDocument,
    request: WindowRequest,
    onProgress: (ratio: number) => void,
  ): Promise<DisplayBytes | Refusal>
  endWindow(): Promise<void>
  /** Exports a file for image editors; a newer call of this or the next cancels it. */
  exportForEditor(
    document: MaterialDocument,
    wanted: ExportRequest,
    onProgress: (ratio: number) => void,
  ): Promise<ExportedFile | Refusal>
  /** Compares a file from an image editor with the document. */
  importFromEditor(
    document: MaterialDocument,
    file: EditorFile,
    onProgress: (ratio: number) => void,
  ): Promise<{ readonly pictures: readonly ImportedPicture[] } | Refusal>
  endExchange(): Promise<void>
  /** The lit textures of a document that is not worked on; a newer call cancels this one. */
  texturesOf(document: MaterialDocument, width: number, look?: Look): Promise<{ readonly textures: Textures } | Refusal>
  endTextures(): Promise<void>
  placeAt(view: View, request: PlaceRequest): Promise<PlaceFound | Refusal>
  /** Tells `listener` how far evaluations are, 0–1, that take a while. */
  listen(listener: (view: View, ratio: number) => void): void
  /** What the page would take with a preview wider than LARGE; null before anything is shown. */
  forecastLarge(wanted: Pick<PreviewRequest, 'width' | 'shown' | 'look'>): Promise<LargeForecast | null>
  example(type: string): Promise<DisplayBytes | null>
  /** A small lit picture of a document. */
  picture(document: MaterialDocument, width?: number): Promise<DisplayBytes | null>
}

/** Width of the first passes: swatches are made from them. */
export const ROUGH = 256
/** A pass between the first ones and a large preview, which takes long. */
const BEFORE_LARGE = 1024
/** Pictures kept of what is not on screen, to stand there until newer ones come. */
const UNSEEN_KEPT = 256
/** Channels that take as long as all others together; they follow in a pass of their own. */
const LATE = CHANNELS.filter(({ isSlow }) => isSlow).map(({ id }) => id)

/**
 * Evaluates what is wanted: roughly first, then what takes long, then sharp. While the first pass runs it is let finish, so
 * that a long drag shows pictures all the way; then the newest document is next. Later passes are given up for anything
 * newer.
 */
export function openEvaluation(
  client: EngineClient,
  now: () => number = () => performance.now(),
  /** A document as it lies on the part that it is shown on. */
  resolve: (document: MaterialDocument) => MaterialDocument = (document) => document,
) {
  const store = createStore<Evaluation>(() => ({
    state: 'waiting',
    problem: null,
    textures: { shown: {}, comparison: {}, versus: {}, delivered: {} },
    swatches: {},
    layerColours: {},
    histograms: {},
    faults: {},
    last: null,
    progress: null,
    latency: { rough: null, sharp: null },
    packing: { state: 'idle', problem: null, files: {}, report: null, histograms: null },
    delivered: { state: 'idle', problem: null },
    deliveredLook: 'metal-rough',
    deliveredLoss: { loss: null, gain: null },
  }))
  const { getState: get, setState: set } = store
  client.listen((view, progress) => {
    if (view === 'shown' && get().state === 'rough') set({ progress })
  })
  let newest: Wanted | null = null
  let edited = 0
  let roughing = false
  const sent: Record<View, SentDocument> = {
    shown: new SentDocument(),
    comparison: new SentDocument(),
    versus: new SentDocument(),
    packing: new SentDocument(),
  }
  const newestPack: Record<WantedPacking['want']['kind'], WantedPacking | null> = { packing: null, delivered: null }

  /** One call about a document; once more with the whole where the worker lost it. */
  async function call<T extends object>(
    view: View,
    document: MaterialDocument,
    work: (update: PreviewRequest['update']) => Promise<T>,
  ): Promise<T> {
    const outcome = await work(sent[view].update(document))
    if (!('stale' in outcome)) return outcome
    sent[view].forget()
    return work(sent[view].update(document))
  }

  /** Takes an answer in. */
  function receive(
    view: 'shown' | SplitView,
    preview: Preview,
    wanted: Wanted,
    { withSwatches, later = [] }: { withSwatches: boolean; later?: readonly string[] },
  ): void {
    const { textures, swatches, latency, layerColours, faults } = get()
    const merged = Object.keys(preview.textures).length
      ? { ...textures, [view]: { ...textures[view], ...preview.textures } }
      : textures
    if (view !== 'shown') return set({ textures: merged })
    set({
      textures: merged,
      swatches: withSwatches ? mergeSwatches(swatches, preview, wanted.swatches.map(formatOutput)) : swatches,
      layerColours: withSwatches ? { ...layerColours, ...preview.layerColours } : layerColours,
      histograms: preview.histograms,
      // Of what comes later nothing is known yet: it stays as it was.
      faults: { ...(withSwatches ? pick(faults, later) : faults), ...preview.faults },
      last: preview,
      progress: null,
      latency,
    })
  }

  async function run(): Promise<void> {
    roughing = true
    let wanted: Wanted
    do {
      wanted = newest!
      const since = edited
      // What stands alone on the stage is never late.
      const alone = [wanted.shown, wanted.overlay ?? null, ...wanted.histograms].flatMap((output) =>
        output ? [formatOutput(output)] : [],
      )
      const later = LATE.filter((output) => !alone.includes(output))
      if (!(await pass(wanted, { width: Math.min(ROUGH, wanted.width), later }))) continue
      set({ state: 'rough', problem: null, latency: { rough: now() - since, sharp: null } })
    } while (wanted !== newest)
    roughing = false
    if (get().state === 'rough') void finish(wanted, edited)
  }

  /** What has come into view of a document that is drawn already. */
  async function look(wanted: Wanted): Promise<void> {
    const { document, swatches } = wanted
    const names = new Set(swatches.map(formatOutput))
    const later = channelsOf(document)
      .map(({ id }) => id)
      .filter((channel) => !names.has(channel))
    const preview = await ask(wanted, {
      width: Math.min(ROUGH, wanted.width),
      lit: false,
      shown: null,
      overlay: null,
      histograms: [],
      later,
    })
    if (!preview || wanted !== newest) return
    const { swatches: before, layerColours, faults } = get()
    set({
      swatches: mergeSwatches(before, preview, [...names]),
      layerColours: { ...layerColours, ...preview.layerColours },
      faults: { ...faults, ...preview.faults },
    })
  }

  async function finish(wanted: Wanted, since: number): Promise<void> {
    if (!(await pass(wanted, { width: Math.min(ROUGH, wanted.width) })) || wanted !== newest) return
    const widths = [...(wanted.width > LARGE ? [BEFORE_LARGE] : []), wanted.width].filter((width) => width > ROUGH)
    for (const width of widths)
      if (!(await pass(wanted, { width, swatches: [], layerColours: [] })) || wanted !== newest) return
    if (wanted === newest) set({ state: 'sharp', latency: { ...get().latency, sharp: now() - since } })
  }

  /** One pass over what is shown; false where it gave nothing. */
  async function pass(wanted: Wanted, change: Partial<Omit<PreviewRequest, 'update'>>): Promise<boolean> {
    const preview = await ask(wanted, change)
    if (preview) {
      const withSwatches = (change.swatches ?? wanted.swatches).length > 0
      receive('shown', preview, wanted, { withSwatches, later: change.later })
    }
    return preview !== null
  }

  async function ask(wanted: Wanted, change: Partial<Omit<PreviewRequest, 'update'>>): Promise<Preview | null> {
    const { document, ...rest } = wanted
    const asked = { ...rest, lit: true, ...change }
    const outcome = await call('shown', document, (update) => client.evaluatePreview('shown', { ...asked, update }))
    if ('preview' in outcome) return outcome.preview
    if (wanted === newest && !outcome.cancelled) set({ state: 'failed', problem: outcome.error })
    return null
  }

  return {
    store,
    want(asked: Wanted): void {
      const wanted = { ...asked, document: resolve(asked.document) }
      // The end of a drag wants what is there already.
      if (newest && get().state !== 'failed' && isSameWanted(newest, wanted)) return
      const { swatches, layerColours } = wanted
      const scrolled = newest && get().state === 'sharp' && isSameWanted({ ...newest, swatches, layerColours }, wanted)
      newest = wanted
      if (scrolled) return void look(wanted)
      edited = now()
      if (get().state !== 'waiting') set({ state: 'rough', progress: null })
      if (!roughing) void run()
    },
    /** Evaluates the document that a half of a split shows. Says what went wrong, or null. */
    async compare(view: SplitView, { document: given, ...rest }: Wanted): Promise<string | null> {
      const document = resolve(given)
      const width = Math.min(LARGE, rest.width)
      const asked = { ...rest, width, lit: true, swatches: [], layerColours: [] }
      const outcome = await call(view, document, (update) => client.evaluatePreview(view, { ...asked, update }))
      if ('preview' in outcome) receive(view, outcome.preview, { document, ...rest }, { withSwatches: false })
      return 'error' in outcome && !outcome.cancelled ? outcome.error : null
    },
    /** Packs; a newer request of the same kind gives up the one under way. */
    async pack(wanted: WantedPacking): Promise<void> {
      const { document: given, ...asked } = wanted
      const document = resolve(given)
      const rest = { ...asked, width: Math.min(LARGE, asked.width) }
      const { kind } = wanted.want
      newestPack[kind] = wanted
      set({ [kind]: { ...get()[kind], state: 'working' } })
      const outcome = await call('packing', document, (update) => client.pack({ ...rest, update }))
      if (newestPack[kind] !== wanted) return
      if ('error' in outcome) {
        if (!outcome.cancelled) set({ [kind]: { ...get()[kind], state: 'failed', problem: outcome.error } })
        return
      }
      const { packed } = outcome
      if (packed.kind === 'delivered') {
        set({
          delivered: { state: 'done', problem: null },
          textures: { ...get().textures, delivered: packed.textures },
          deliveredLook: packed.look,
          deliveredLoss: { loss: packed.loss, gain: packed.gain },
        })
        return
      }
      // What was not asked for again stays as it was.
      const before = get().packing
      const { files, report, histograms } = packed
      set({
        packing: {
          state: 'done',
          problem: null,
          files,
          report: report ?? before.report,
          histograms: histograms ?? before.histograms,
        },
      })
    },
    probe: (view: View, u: number, v: number) => client.probe(view, u, v),
    /** What lies at a place of a view, at the width that was made last. */
    placeAt: (view: View, place: Omit<PlaceRequest, 'width'>) =>
      client.placeAt(view, { ...place, width: Math.min(BEFORE_LARGE, get().last?.width ?? ROUGH) }),
    windowOf: (document: MaterialDocument, ...asked: Tail<Parameters<EngineClient['windowOf']>>) =>
      client.windowOf(resolve(document), ...asked),
    endWindow: () => client.endWindow(),
    exportForEditor: (document: MaterialDocument, ...asked: Tail<Parameters<EngineClient['exportForEditor']>>) =>
      client.exportForEditor(resolve(document), ...asked),
    importFromEditor: (document: MaterialDocument, ...asked: Tail<Parameters<EngineClient['importFromEditor']>>) =>
      client.importFromEditor(resolve(document), ...asked),
    endExchange: () => client.endExchange(),
    /** The lit textures of a document as it lies on some part. */
    texturesOf: (document: MaterialDocument, width: number, look?: Look) => client.texturesOf(document, width, look),
    endTextures: () => client.endTextures(),
    /** What shows first that the material repeats. */
    conspicuous: () => client.conspicuous('shown', ROUGH),
    example: (type: string) => client.example(type),
    picture: (document: MaterialDocument, width?: number) => client.picture(resolve(document), width),
    forecastLarge: (width: number) => client.forecastLarge({ width, shown: newest?.shown ?? null, look: newest?.look }),
  }
}

type Tail<T extends readonly unknown[]> = T extends readonly [unknown, ...infer Rest] ? Rest : never

export type EvaluationControl = ReturnType<typeof openEvaluation>

const pick = <T>(all: Readonly<Record<string, T>>, names: readonly string[]): Record<string, T> =>
  Object.fromEntries(names.flatMap((name) => (all[name] === undefined ? [] : [[name, all[name]]])))

function isSameWanted({ document: a, ...before }: Wanted, { document: b, ...after }: Wanted): boolean {
  return sameJson(before, after) && sameJson(a, b)
}

/** The pictures with those that came, and without those that cannot be made. What is not on screen stays a while. */
function mergeSwatches(
  before: Evaluation['swatches'],
  preview: Preview,
  wanted: readonly string[],
): Evaluation['swatches'] {
  const seen: Record<string, Swatch> = {}
  let changed = false
  for (const output of wanted) {
    const fresh = preview.swatches[output]
    const old = before[output]
    const faulty = preview.faults[output]?.missing === true
    if (!faulty && (fresh || old)) seen[output] = fresh ? { ...fresh, changes: (old?.changes ?? 0) + 1 } : old!
    changed ||= faulty ? old !== undefined : fresh !== undefined
  }
  const asked = new Set(wanted)
  const unseen = Object.entries(before).filter(([output]) => !asked.has(output))
  if (!changed && unseen.length <= UNSEEN_KEPT) return before
  return { ...Object.fromEntries(unseen.slice(-UNSEEN_KEPT)), ...seen }
}
