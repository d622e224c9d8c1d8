import type { Conspicuous } from '#core/checks/conspicuous'
import { conspicuousPlace } from '#core/checks/conspicuous'
import { Dropped } from '#core/engine/dropped'
import type { EngineHost } from '#core/engine/evaluate'
import { FieldCache } from '#core/engine/field-cache'
import type { ImageLoader } from '#core/engine/pyramids'
import { pyramidPlanes } from '#core/field/pyramid'
import { Pyramids } from '#core/engine/pyramids'
import type { Executor } from '#core/engine/pass'
import { checkWanted } from '#core/engine/pass'
import type { Output } from '#core/document/address'
import { channelOutput, formatOutput } from '#core/document/address'
import { channelsOf, deliverableChannels } from '#core/document/channels'
import { GristError } from '#core/errors'
import { allLayers } from '#core/document/document'
import type { MaterialDocument } from '#core/document/document'
import { metresOf, partOf } from '#core/document/domain'
import { layersAt } from '#core/document/layers-at'
import { tileSize } from '#core/field/field'
import { NEAREST } from '#core/field/patches'
import { exampleDocument, exampleImage } from '#core/graph/example-document'
import type { MaterialSession, PartialResult, SessionRequest } from '#core/material/session'
import { openMaterial } from '#core/material/session'
import type { NodeWeight } from '#core/material/weigh'
import { Weighing } from '#core/material/weigh'
import type { MeshLoader } from '#core/mesh/seams/island-patches'
import { KeptPatches, patchArrays } from '#core/mesh/seams/island-patches'
import { LIT_CHANNELS, litPixels } from '#core/preview/lit-thumbnail'
import type { Look } from '#core/preview/looks'
import { LOOK_CHANNELS } from '#core/preview/looks'
import { registry } from '#core/nodes/registry.generated'
import type { DisplayBytes } from '#core/preview/display'
import { displayBytes, valuesAt } from '#core/preview/display'
import type { ExportedFile } from '#core/exchange/export-layers'
import type { ImportedPicture, DecodePng } from '#core/exchange/compare-import'
import type { WindowRequest } from './delivered-window'
import { evaluateWindow } from './delivered-window'
import type { EditorFile, ExportRequest } from './exchange'
import { importFromEditor, exportForEditor } from './exchange'
import { FollowedDocument } from './followed-document'
import type { LargeRequest } from './large-preview'
import { evaluateLarge, forecastLarge } from './large-preview'
import type { PackResult, PackTask } from './packer'
import type { Frames } from '#core/texture/packing'
import { parsePacking } from '#core/texture/packing'
import { FrameSheets, frameDocuments, frameWidth } from '#core/texture/frames'
import { plansOf } from './packer'
import { openPauses } from './pause'
import { SentPreview, wantedOutputs } from './preview'
import { makeTexture, texturesOf } from './textures'
import type {
  DocumentUpdate,
  LargeForecast,
  PackOutcome,
  PackRequest,
  PlaceFound,
  PlaceRequest,
  Preview,
  PreviewOutcome,
  PreviewRequest,
  ProbedValue,
  Refusal,
  Textures,
  View,
} from './protocol'
import { LARGE } from './protocol'

/** What the coordinator needs from outside; tests bring their own. */
export interface CoordinatorHost {
  readonly executor: Executor
  readonly cacheBytes: number
  /** Threads over memory that is theirs while a large preview is made. */
  readonly largeExecutor: () => Executor
  /** Images as the server has decoded them, and mesh data. */
  readonly images: ImageLoader
  /** Meshes of parts, by their hash. */
  readonly meshes: MeshLoader
  readonly decodePng: DecodePng
  /** Packs on a thread of its own. */
  readonly packer: {
    pack(task: PackTask): Promise<PackResult>
    cancel(id: number): void
  }
}

/** Memory of images that were used of late, so that a dial may go through them. */
const PYRAMID_BYTES = 192 << 20
/** Memory of patches of parts. */
const PATCH_BYTES = 160 << 20
/** Width of the pictures in the nodes' help. */
const EXAMPLE = 128
/** Side of a small picture of a document. */
const SMALL = 64

type PackKind = PackRequest['want']['kind']

/** One view: its document, and what the page has of it. */
class ViewState {
  newest = 0
  readonly followed = new FollowedDocument()
  readonly sent = new SentPreview()
  session: MaterialSession | null = null
}

/** All channels of a document, and those that a look takes besides. */
const litOutputs = (document: MaterialDocument, look: Look = 'metal-rough'): Output[] =>
  [...channelsOf(document).map(({ id }) => id), ...LOOK_CHANNELS[look]].map(channelOutput)

/**
 * Holds the cache and answers what a page wants of its documents: pictures, histograms, values, and only what changed since
 * the last answer. See docs/decisions/0004-the-stage-redraws.md.
 */
export class Coordinator {
  private readonly views: Record<View, ViewState> = {
    shown: new ViewState(),
    comparison: new ViewState(),
    versus: new ViewState(),
    packing: new ViewState(),
  }
  /** What is packed of each kind: the newest number, and what has gone to the packer. */
  private readonly packs: Record<PackKind, { newest: number; sent: number | null }> = {
    packing: { newest: 0, sent: null },
    delivered: { newest: 0, sent: null },
  }
  private tasks = 0
  private readonly dropped: Dropped
  private readonly engine: EngineHost
  private weighing: Weighing | null = null
  private newestWindow = 0
  private newestTextures = 0
  private newestExchange = 0
  /** Evaluations under way. */
  private running = 0

  constructor(private readonly host: CoordinatorHost) {
    const { executor } = host
    this.dropped = new Dropped(executor.free)
    this.engine = {
      executor,
      cache: new FieldCache(host.cacheBytes, this.dropped.addField),
      pyramids: new Pyramids(host.images, executor.allocate, this.dropped.addImage, PYRAMID_BYTES),
      islands: new KeptPatches(host.meshes, executor, (set) => this.dropped.addArrays(patchArrays(set)), PATCH_BYTES),
    }
  }

  /** Evaluates what is wanted. A newer call for the same view cancels this one. */
  async evaluatePreview(
    view: View,
    request: PreviewRequest,
    onProgress: (ratio: number) => void = () => {},
  ): Promise<PreviewOutcome> {
    const state = this.views[view]
    const own = ++state.newest
    // What is packed of the document before an edit is not wanted any more.
    if (view === 'shown' && request.update.version !== state.followed.version)
      for (const kind of ['packing', 'delivered'] as const) this.giveUpPack(kind)
    const session = this.follow(state, request.update)
    if (!session) return STALE
    return this.counted(async () => {
      const started = performance.now()
      const { document } = session
      const isCancelled = (): boolean => own !== state.newest
      const outputs = wantedOutputs(request, document)
      const signals = { isCancelled, onProgress }
      const answer =
        request.width > LARGE
          ? await this.evaluateLarge(state, request, document, signals)
          : state.sent.answer(
              request,
              document,
              await session.evaluatePartial({ outputs, width: request.width, ...signals }),
              await this.ownTexels(document, request, isCancelled),
            )
      return { preview: { ...answer, milliseconds: performance.now() - started } }
    })
  }

  private async evaluateLarge(
    { sent }: ViewState,
    request: PreviewRequest,
    document: MaterialDocument,
    signals: { isCancelled: () => boolean; onProgress: (ratio: number) => void },
  ): Promise<Omit<Preview, 'milliseconds'>> {
    return this.apart(document, async (session) => {
      const large = this.largeRequest(session, request, sent)
      const made = await evaluateLarge(session, large, signals)
      return sent.answerLarge(request, session.sizeAt(request.width).height, large.lacking, made)
    })
  }

  private largeRequest(
    session: MaterialSession,
    { width, shown, look }: Pick<PreviewRequest, 'width' | 'shown' | 'look'>,
    sent: SentPreview,
  ): LargeRequest {
    const channels = litOutputs(session.document, look)
    const keys = session.keysOf(shown ? [...channels, shown] : channels)
    const makers = texturesOf(keys.keys(), { lit: true, look, shown: shown && formatOutput(shown) })
    return { width, makers, lacking: sent.lackingOf(makers, keys, width), cacheBytes: this.host.cacheBytes }
  }

  /** What a page takes with a large preview of what it is shown now; null before it is shown anything. */
  forecastLarge(wanted: Pick<PreviewRequest, 'width' | 'shown' | 'look'>): LargeForecast | null {
    const { session, sent } = this.views.shown
    if (!session) return null
    try {
      return { bytes: forecastLarge(session, this.largeRequest(session, wanted, sent)) }
    } catch (error) {
      if (error instanceof GristError) return { refusal: error.detail }
      throw error
    }
  }

  /**
   * What a packing makes of the channels, or what a delivery's files hold. A newer call of the same kind cancels this one, and so
   * does an edit of the document that is shown.
   */
  async pack(request: PackRequest): Promise<PackOutcome> {
    const { kind } = request.want
    const own = this.giveUpPack(kind)
    const session = this.follow(this.views.packing, request.update)
    if (!session) return STALE
    const isCancelled = (): boolean => own !== this.packs[kind].newest
    // Fields stay as long as this goes on, also those that the cache drops.
    return this.counted(async () => {
      const task = { ...(await this.channelsFor(request, session, isCancelled)), id: ++this.tasks }
      if (isCancelled()) throw new GristError('cancelled', 'Something newer is wanted.')
      this.packs[kind].sent = task.id
      try {
        return { packed: await this.host.packer.pack(task) }
      } finally {
        if (this.packs[kind].sent === task.id) this.packs[kind].sent = null
      }
    })
  }

  /** Cancels what is being packed; the number of what comes next. */
  private giveUpPack(kind: PackKind): number {
    const pack = this.packs[kind]
    if (pack.sent !== null) this.host.packer.cancel(pack.sent)
    pack.sent = null
    return ++pack.newest
  }

  /** A request with the channels that it packs. Throws packing-invalid, cancelled, and what evaluating throws. */
  private async channelsFor(
    { width, from, want }: PackRequest,
    session: MaterialSession,
    isCancelled: () => boolean,
  ): Promise<Omit<PackTask, 'id'>> {
    const { document } = session
    const task = { width, from, want, document }
    if (!('packing' in from)) return { ...task, fields: new Map(), keys: new Map() }
    const channels = deliverableChannels(document)
    const { frames, bleeds } = parsePacking(from.packing)
    const plans = plansOf(from.packing, want, channels)
    const slots = plans.flatMap((plan) => plan.slots)
    const packed = new Set(slots.flatMap((slot) => ('channel' in slot ? slot.channel : [])))
    // Roughness of mips grows by the normals that they lose.
    if (plans.some(({ roughens }) => roughens)) packed.add('normal')
    const request = {
      // Opacity also where nothing takes it: a check tells when it would be missed.
      outputs: [...new Set([...packed, 'opacity'])].map(channelOutput),
      width,
      options: { sharpen: from.sharpen, bleeds },
      isCancelled,
    }
    const { fields, faults, keys } = await (frames
      ? this.framed(document, frames, request)
      : session.evaluatePartial(request))
    for (const id of packed) {
      const fault = faults.get(id)
      const title = channels.find((channel) => channel.id === id)!.title
      if (fault) throw new GristError('packing-invalid', `${title} cannot be made: ${fault.detail}`)
    }
    return { ...task, fields, keys }
  }

  /** The sheets of a packing with frames, as far as they can be made. */
  private async framed(
    document: MaterialDocument,
    frames: Frames,
    request: SessionRequest,
  ): Promise<Omit<PartialResult, 'report'>> {
    const session = openMaterial(document, registry, this.engine)
    const width = frameWidth(request.width, frames)
    const sheets = new FrameSheets(frames, session.sizeAt(width))
    const faults = new Map<string, GristError>()
    const keys = new Map<string, string>()
    for (const [k, one] of frameDocuments(document, frames).entries()) {
      session.update(one)
      const made = await session.evaluatePartial({ ...request, width })
      sheets.add(k, made.fields)
      for (const [name, fault] of made.faults) faults.set(name, fault)
      for (const [name, key] of made.keys) keys.set(name, `${keys.get(name) ?? frames.columns} ${key}`)
    }
    return { fields: sheets.fields, faults, keys }
  }

  /** Values of every channel at u, v (in tiles, v down), as last evaluated. */
  probe(view: View, u: number, v: number): ProbedValue[] {
    return this.views[view].sent.probe(u, v)
  }

  /** What lies at a place of a view: a mask that cannot be made hides nothing. */
  async placeAt(view: View, { u, v, width, channel, shown }: PlaceRequest): Promise<PlaceFound | Refusal> {
    const { session } = this.views[view]
    if (!session) return STALE
    return this.counted(async () => {
      const { document } = session
      const masks = [...allLayers(document.layers)].map(({ id }): Output => ({ kind: 'mask', layer: id }))
      const { fields } = await session.evaluatePartial({ outputs: shown ? [...masks, shown] : masks, width })
      const valuesOf = (output: Output): number[] | undefined => {
        const field = fields.get(formatOutput(output))
        return field && valuesAt(field, u, v)
      }
      const values = shown && valuesOf(shown)
      return {
        layers: layersAt(document, channel, (layer) => valuesOf({ kind: 'mask', layer })?.[0] ?? 1),
        shown: values ? { type: fields.get(formatOutput(shown))!.type, values } : null,
      }
    })
  }

  /** What shows first that the material repeats: where its colour stands out most. Null where nothing does. */
  async conspicuous(view: View, width: number): Promise<Conspicuous | Refusal | null> {
    const { session } = this.views[view]
    if (!session) return STALE
    return this.counted(async () => {
      const { fields } = await session.evaluatePartial({ outputs: [channelOutput('colour')], width })
      const [field] = fields.values()
      return field ? conspicuousPlace(field) : null
    })
  }

  /** A part of a channel at the size it is delivered, without the cache. A newer call cancels this one. */
  async windowOf(
    document: MaterialDocument,
    request: WindowRequest,
    onProgress: (ratio: number) => void = () => {},
  ): Promise<DisplayBytes | Refusal> {
    const own = ++this.newestWindow
    const signals = { isCancelled: () => own !== this.newestWindow, onProgress }
    return this.counted(() => this.apart(document, (session) => evaluateWindow(session, request, signals)))
  }

  /** Gives up the window that is being made. */
  endWindow(): void {
    this.newestWindow++
  }

  /** Exports a file for image editors. */
  async exportForEditor(
    document: MaterialDocument,
    wanted: ExportRequest,
    onProgress: (ratio: number) => void = () => {},
  ): Promise<ExportedFile | Refusal> {
    const own = ++this.newestExchange
    const isCancelled = (): boolean => own !== this.newestExchange
    const signals = { isCancelled, onProgress, pause: openPauses() }
    return this.counted(() => this.apart(document, (session) => exportForEditor(session, wanted, signals)))
  }

  /** Compares a file from an image editor with the document. */
  async importFromEditor(
    document: MaterialDocument,
    file: EditorFile,
    onProgress: (ratio: number) => void = () => {},
  ): Promise<{ readonly pictures: readonly ImportedPicture[] } | Refusal> {
    const own = ++this.newestExchange
    const isCancelled = (): boolean => own !== this.newestExchange
    const signals = { isCancelled, onProgress, pause: openPauses() }
    return this.counted(async () => ({
      pictures: await this.apart(document, (session) => importFromEditor(session, file, this.host.decodePng, signals)),
    }))
  }

  /** Gives up the file that is being exported or imported. */
  endExchange(): void {
    this.newestExchange++
  }

  /** From now on `weigh` measures nodes of this document, at a width. */
  beginWeighing(document: MaterialDocument, width: number): void {
    this.weighing?.end()
    const { executor, pyramids, islands } = this.engine
    this.weighing = new Weighing(document, registry, { executor, pyramids, islands }, width, this.dropped.addField)
  }

  /** What a node costs and does. A call after `endWeighing` is refused as cancelled. */
  async weigh(node: string): Promise<NodeWeight | Refusal> {
    const { weighing } = this
    if (!weighing) return { error: 'Measuring has ended.', cancelled: true }
    return this.counted(() => weighing.weigh(node, () => this.weighing !== weighing))
  }

  /** Lets go of what was kept to measure nodes. */
  endWeighing(): void {
    this.weighing?.end()
    this.weighing = null
    if (this.running === 0) this.release()
  }

  /** The picture in a node's help: its first output in its own example. */
  async example(type: string): Promise<DisplayBytes | null> {
    const node = registry.get(type)
    if (!node) return null
    const images: ImageLoader = { load: async (name) => exampleImage(node, name) }
    const { allocate } = this.engine.executor
    const pyramids = new Pyramids(images, allocate, this.dropped.addImage)
    const output = { kind: 'port', node: 'example', port: Object.keys(node.outputs)[0]! } as const
    this.running++
    try {
      const session = openMaterial(exampleDocument(node), registry, { ...this.engine, pyramids, islands: undefined })
      const { fields } = await session.evaluatePartial({ outputs: [output], width: EXAMPLE })
      const [field] = fields.values()
      return field ? displayBytes(field) : null
    } finally {
      pyramids.clear()
      this.ended()
    }
  }

  /** A small picture of a document, lit; null where it cannot be made. */
  async picture(document: MaterialDocument, width = SMALL): Promise<DisplayBytes | null> {
    this.running++
    try {
      const session = openMaterial(document, registry, this.engine)
      const outputs = LIT_CHANNELS.map(channelOutput)
      const { fields } = await session.evaluatePartial({ outputs, width })
      return fields.size === outputs.length ? litPixels(fields) : null
    } finally {
      this.ended()
    }
  }

  /**
   * The textures of a document, lit, without the cache: of what stands beside the one that is worked on. A newer call cancels this
   * one.
   */
  async texturesOf(document: MaterialDocument, width: number, look?: Look): Promise<{ textures: Textures } | Refusal> {
    const own = ++this.newestTextures
    return this.counted(async () => {
      const session = openMaterial(document, registry, { ...this.engine, cache: undefined })
      const { fields, keys } = await session.evaluatePartial({
        outputs: litOutputs(document, look),
        width,
        isCancelled: () => own !== this.newestTextures,
      })
      const made = texturesOf(fields.keys(), { lit: true, look, shown: null }).map((maker) => {
        const key = `${maker.outputs.map((output) => keys.get(output)).join('+')}@${width}`
        return [maker.slot, { key, ...makeTexture(maker, fields) }] as const
      })
      return { textures: Object.fromEntries(made) }
    })
  }

  /** Gives up the textures that are being made. */
  endTextures(): void {
    this.newestTextures++
  }

  /** Works with a document on the same threads, in memory of its own that goes when it is done. */
  private async apart<T>(document: MaterialDocument, work: (session: MaterialSession) => Promise<T>): Promise<T> {
    const executor = this.host.largeExecutor()
    const giveBack = (arrays: readonly ArrayBufferView[]): void => arrays.forEach(executor.free)
    const pyramids = new Pyramids(this.host.images, executor.allocate, (one) => giveBack(pyramidPlanes(one)))
    const islands = new KeptPatches(this.host.meshes, executor, (set) => giveBack(patchArrays(set)))
    try {
      return await work(openMaterial(document, registry, { executor, pyramids, islands }))
    } finally {
      pyramids.clear()
      islands.clear()
      executor.end()
    }
  }

  /** A view's session, its document brought up; null where the update cannot be followed. */
  private follow(state: ViewState, update: DocumentUpdate): MaterialSession | null {
    const document = state.followed.receive(update)
    if (!document) return null
    if (state.session) state.session.update(document)
    else state.session = openMaterial(document, registry, this.engine)
    return state.session
  }

  /** Of a material on a part: by texel the nearest that belongs to it, as means and histograms are of those only; null of others. */
  private async ownTexels(
    document: MaterialDocument,
    { width, swatches, histograms, layerColours }: PreviewRequest,
    isCancelled: () => boolean,
  ): Promise<Int32Array | null> {
    const part = partOf(document)
    if (!part || swatches.length + histograms.length + layerColours.length === 0) return null
    const size = tileSize(width, metresOf(document))
    try {
      const { nearest } = await this.engine.islands!.get(part, size.width, size.height, NEAREST, isCancelled)
      // A newer answer may have gone out meanwhile.
      checkWanted(isCancelled)
      return nearest
    } catch (error) {
      // A mesh that cannot be had is told where it is padded.
      if (error instanceof GristError && error.code !== 'cancelled') return null
      throw error
    }
  }

  private async counted<T>(work: () => Promise<T>): Promise<T | Refusal> {
    this.running++
    try {
      return await work()
    } catch (error) {
      const cancelled = error instanceof GristError && error.code === 'cancelled'
      return { error: error instanceof Error ? error.message : String(error), cancelled }
    } finally {
      this.ended()
    }
  }

  /** What the cache dropped may be used again once nothing is under way, but for what the probe reads. */
  private ended(): void {
    this.running--
    if (this.running === 0) this.release()
  }

  private release(): void {
    this.dropped.release(Object.values(this.views).flatMap(({ sent }) => sent.fields))
  }
}

const STALE: Refusal = { error: 'The worker has another version of the document.', cancelled: false, stale: true }
