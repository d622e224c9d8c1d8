// First: the helpers load while this worker does.
import { browserExecutor } from './helpers'
import type { Look } from '#core/preview/looks'
import type { MaterialDocument } from '#core/document/document'
import type { Remote } from 'comlink'
import { expose, transfer, wrap } from 'comlink'
import { raise } from '../task-outcome'
import { Coordinator } from './coordinator'
import type { EditorFile, ExportRequest } from './exchange'
import { decodePng } from './exchange'
import { fetchImage, fetchMesh } from './fetch-raster'
import type { WindowRequest } from './delivered-window'
import type { PackTask } from './packer'
import type { PackerCalls } from './packer.worker'
import type { PackRequest, PlaceRequest, PreviewRequest, View } from './protocol'

let packer: Remote<PackerCalls> | null = null
/** The packing worker, from when something is packed on. */
const packerNow = (): Remote<PackerCalls> =>
  (packer ??= wrap<PackerCalls>(new Worker(new URL('./packer.worker.ts', import.meta.url), { type: 'module' })))

/** With copies of its fields: without isolation no memory can be shared with another worker. */
const copied = (task: PackTask): PackTask => ({
  ...task,
  fields: new Map(
    [...task.fields].map(([name, field]) => [
      name,
      { ...field, planes: field.planes.map((plane) => plane.slice()), ids: field.ids?.slice() ?? null },
    ]),
  ),
})

const coordinator = new Coordinator({
  executor: browserExecutor(),
  cacheBytes: 384 << 20,
  largeExecutor: browserExecutor,
  images: { load: fetchImage },
  meshes: { load: fetchMesh },
  decodePng,
  packer: {
    pack: async (task) => {
      const outcome = await packerNow().pack(globalThis.crossOriginIsolated ? task : copied(task))
      return 'error' in outcome ? raise(outcome) : outcome.packed
    },
    cancel: (id) => void packer?.cancel(id),
  },
})

const buffers = (pictures: readonly { pixels: { buffer: ArrayBuffer } }[]): ArrayBuffer[] =>
  pictures.map(({ pixels }) => pixels.buffer)

/** Milliseconds before something is told of how far an evaluation is, and between two such messages. */
const UNTIL_TOLD = 250
let tell: (view: View, ratio: number) => void = () => {}

/** Tells how far something is now and then, if it takes a while. */
function nowAndThen(told: (ratio: number) => void): (ratio: number) => void {
  let next = performance.now() + UNTIL_TOLD
  return (ratio) => {
    if (performance.now() < next) return
    next = performance.now() + UNTIL_TOLD
    told(ratio)
  }
}

const progressOf = (view: View): ((ratio: number) => void) => nowAndThen((ratio) => tell(view, ratio))

/** The coordinator as pages reach it: pictures are handed over, not copied. */
const calls = {
  evaluatePreview: async (view: View, request: PreviewRequest) => {
    const outcome = await coordinator.evaluatePreview(view, request, progressOf(view))
    if (!('preview' in outcome)) return outcome
    const { textures, swatches } = outcome.preview
    return transfer(outcome, buffers([...Object.values(textures), ...Object.values(swatches)]))
  },
  pack: async (request: PackRequest) => {
    const outcome = await coordinator.pack(request)
    if (!('packed' in outcome)) return outcome
    const { packed } = outcome
    const pictures =
      packed.kind === 'delivered'
        ? Object.values(packed.textures)
        : Object.values(packed.files).flatMap(({ whole, slots }) => [whole, ...slots])
    return transfer(outcome, buffers(pictures))
  },
  /** From now on `listener` hears how far evaluations are that take a while. */
  listen: (listener: typeof tell) => void (tell = listener),
  forecastLarge: (wanted: Pick<PreviewRequest, 'width' | 'shown' | 'look'>) => coordinator.forecastLarge(wanted),
  probe: (view: View, u: number, v: number) => coordinator.probe(view, u, v),
  placeAt: (view: View, request: PlaceRequest) => coordinator.placeAt(view, request),
  beginWeighing: (document: MaterialDocument, width: number) => coordinator.beginWeighing(document, width),
  weigh: (node: string) => coordinator.weigh(node),
  endWeighing: () => coordinator.endWeighing(),
  conspicuous: (view: View, width: number) => coordinator.conspicuous(view, width),
  windowOf: async (document: MaterialDocument, request: WindowRequest, onProgress: (ratio: number) => void) => {
    const answer = await coordinator.windowOf(document, request, nowAndThen(onProgress))
    return 'error' in answer ? answer : transfer(answer, [answer.pixels.buffer])
  },
  endWindow: () => coordinator.endWindow(),
  exportForEditor: async (document: MaterialDocument, wanted: ExportRequest, onProgress: (ratio: number) => void) => {
    const answer = await coordinator.exportForEditor(document, wanted, nowAndThen(onProgress))
    return 'error' in answer ? answer : transfer(answer, [answer.bytes.buffer as ArrayBuffer])
  },
  importFromEditor: (document: MaterialDocument, file: EditorFile, onProgress: (ratio: number) => void) =>
    coordinator.importFromEditor(document, file, nowAndThen(onProgress)),
  endExchange: () => coordinator.endExchange(),
  texturesOf: async (document: MaterialDocument, width: number, look?: Look) => {
    const outcome = await coordinator.texturesOf(document, width, look)
    return 'error' in outcome ? outcome : transfer(outcome, buffers(Object.values(outcome.textures)))
  },
  endTextures: () => coordinator.endTextures(),
  example: (type: string) => coordinator.example(type),
  picture: (document: MaterialDocument, width?: number) => coordinator.picture(document, width),
}
export type CoordinatorCalls = typeof calls

expose(calls)
