import { linearToHex } from '#core/colour/srgb'
import type { EngineHost } from '#core/engine/evaluate'
import { evaluateFields } from '#core/engine/evaluate'
import { BufferPool } from '#core/engine/buffer-pool'
import { FieldCache } from '#core/engine/field-cache'
import type { Executor } from '#core/engine/rows-task'
import type { Channel } from '#core/document/channels'
import { GristError } from '#core/errors'
import type { DisplayBytes, Spread } from '#core/preview/display'
import { displayBytes, reduceField, spreadOf, valuesAt, weightedMean } from '#core/preview/display'
import type { Field } from '#core/field/field'
import type { ImageRequest, RasterImage } from '#core/field/pyramid'
import { makePyramid } from '#core/field/pyramid'
import type { JpegShape } from '#core/texture/formats/jpeg'
import type { MaterialDocument } from '#core/document/document'
import { parseDocument } from '#core/document/document'
import { exampleDocument } from '#core/graph/example-document'
import type { PortRef, Step } from '#core/graph/graph'
import type { Finish, PartialGraph } from '#core/compose/expand'
import { channelsOf, expandWhatFits } from '#core/compose/expand'
import { registry } from '#core/nodes/registry.generated'
import type { PackOutcome, PackRequest } from './packing-preview'
import { makePacked } from './packing-preview'
import type { TexturePicture, TextureSlot } from './textures'
import { texturesOf } from './textures'

/** What a page wants of a document, at one width. */
export interface DrawRequest {
  readonly document: unknown
  readonly width: number
  /** An output seen unlit, if any. */
  readonly shown: string | null
  /** Whether the lit channels are wanted as textures. */
  readonly lit: boolean
  /** Outputs wanted small. */
  readonly swatches: readonly string[]
  /** Layers whose mean colour is wanted; goes with `swatches`. */
  readonly bands: readonly string[]
  /** The output whose spread of values is wanted. */
  readonly spread: string | null
  /** Outputs left for a later pass, as they take long. What the page has of them stays. */
  readonly later?: readonly string[]
}

/** A small picture; `share` is the mean of its first plane. */
export interface SwatchPicture extends DisplayBytes {
  readonly key: string
  readonly share: number
}

export interface Fault {
  readonly message: string
  readonly node?: string
  readonly layer?: string
  readonly dial?: string
}

/** What changed since the last answer to the same lane. */
export interface Drawn {
  readonly width: number
  readonly height: number
  readonly textures: Partial<Record<TextureSlot, TexturePicture>>
  readonly swatches: Record<string, SwatchPicture>
  /** Mean colour by layer, "#rrggbb"; null where a layer has none. */
  readonly bands: Record<string, string | null>
  readonly spread: { output: string; spread: Spread } | null
  /** Why some outputs could not be made, by output. */
  readonly faults: Record<string, Fault>
  readonly evaluated: number
  readonly reused: number
  readonly milliseconds: number
}
export type DrawOutcome = { drawn: Drawn } | { error: string; cancelled: boolean }

/** The document being worked on, and the one it is compared with. */
export type Lane = 'main' | 'other'

/** What the coordinator needs from outside; tests bring their own. */
export interface CoordinatorHost {
  readonly executor: Executor
  readonly cacheBytes: number
  /** A decoded image as the server has it. Throws asset-missing. */
  fetchImage(request: ImageRequest): Promise<RasterImage>
  /** A delivery's file as it was written, at a mip level. */
  fetchFile(delivery: string, index: number, mip: number): Promise<RasterImage>
  /** A picture as a JPEG leaves it. */
  throughJpeg(pixels: Uint8Array, shape: JpegShape): Promise<Uint8Array>
}

/** Longer side of a swatch, in texels. */
const SWATCH = 64
/** Memory kept for the next fields. */
const SPARE_BYTES = 96 << 20

/** What is known of one lane. */
interface LaneState {
  newest: number
  /** What the page has, by slot or swatch: the content's key, and the width it was made at. */
  readonly sent: Map<string, { key: string; width: number }>
  /** Channels as last evaluated, for the probe. */
  fields: ReadonlyMap<string, Field>
  types: ReadonlyMap<string, string>
  /** Mean colours by layer, and the key of what they are means of. */
  bands: Map<string, { key: string; colour: string | null }>
}
const newLane = (): LaneState => ({
  newest: 0,
  sent: new Map(),
  fields: new Map(),
  types: new Map(),
  bands: new Map(),
})

/**
 * Holds the cache and answers what a page wants of its documents: pictures, spreads, values, and only what changed since
 * the last answer. See docs/decisions/0004-the-stage-redraws.md.
 */
export class Coordinator {
  private readonly lanes: Record<Lane, LaneState> = { main: newLane(), other: newLane() }
  private readonly pool: BufferPool
  private readonly engine: EngineHost
  /** Evaluations under way. */
  private running = 0

  private readonly packing = { sheet: 0, look: 0 }

  constructor(private readonly host: CoordinatorHost) {
    this.pool = new BufferPool(host.executor.allocate, SPARE_BYTES)
    const { allocate } = this.pool
    this.engine = {
      executor: { ...host.executor, allocate },
      cache: new FieldCache(host.cacheBytes, (field) => this.pool.retire(field)),
      loadImage: async (request) => makePyramid(await host.fetchImage(request), request, allocate),
    }
  }

  /** Evaluates what is wanted. A newer call of the same lane cancels this one. */
  async draw(lane: Lane, request: DrawRequest): Promise<DrawOutcome> {
    const state = this.lanes[lane]
    const own = ++state.newest
    this.running++
    try {
      const started = performance.now()
      const document = parseDocument(request.document)
      const isCancelled = (): boolean => own !== state.newest
      const wanted = wantedOutputs(request, document)
      const made = await evaluateWhatFits(this.engine, document, wanted, request.width, isCancelled)
      keepForProbe(state, request, channelsOf(document), made.fields)
      const drawn: Drawn = {
        ...sizeOf(made.fields, request.width),
        textures: textures(state, request, made),
        swatches: swatches(state, request, made),
        bands: bands(state, request, made),
        spread: spreadFor(request.spread, made.fields),
        faults: Object.fromEntries(made.faults),
        evaluated: made.evaluated,
        reused: made.reused,
        milliseconds: performance.now() - started,
      }
      return { drawn }
    } catch (error) {
      const cancelled = error instanceof GristError && error.code === 'cancelled'
      return { error: error instanceof Error ? error.message : String(error), cancelled }
    } finally {
      this.ended()
    }
  }

  /** What a packing makes of the channels, or what a delivery's files hold. A newer call of the same kind cancels this one. */
  async pack(request: PackRequest): Promise<PackOutcome> {
    const { kind } = request.want
    const own = ++this.packing[kind]
    const isCancelled = (): boolean => own !== this.packing[kind]
    this.running++
    try {
      const evaluate = (document: MaterialDocument, outputs: readonly string[], finish: Finish) =>
        evaluateWhatFits(this.engine, document, outputs, request.width, isCancelled, finish)
      return { packed: await makePacked(request, { ...this.host, evaluate, isCancelled }) }
    } catch (error) {
      const cancelled = error instanceof GristError && error.code === 'cancelled'
      return { error: error instanceof Error ? error.message : String(error), cancelled }
    } finally {
      this.ended()
    }
  }

  /** Values of every channel at u, v (in tiles, v down), as last evaluated. */
  probe(lane: Lane, u: number, v: number): { channel: string; type: string; values: number[] }[] {
    const { fields, types } = this.lanes[lane]
    return [...fields].map(([channel, field]) => ({
      channel,
      type: types.get(channel)!,
      values: valuesAt(field, u, v),
    }))
  }

  /** The picture in a node's help: its first output in its own example. */
  async example(type: string): Promise<DisplayBytes | null> {
    const node = registry.get(type)
    if (!node) return null
    const output = `example.${Object.keys(node.outputs)[0]!}`
    const { allocate } = this.pool
    const loadImage: EngineHost['loadImage'] = async (request) =>
      makePyramid(node.example.images![request.image]!(), request, allocate)
    this.running++
    try {
      const { fields } = await evaluateWhatFits({ ...this.engine, loadImage }, exampleDocument(node), [output], EXAMPLE)
      const field = fields.get(output)
      return field ? displayBytes(field) : null
    } finally {
      this.ended()
    }
  }

  /** What the cache dropped may be used again once nothing is under way, but for what the probe reads. */
  private ended(): void {
    this.running--
    if (this.running === 0) this.pool.settle(Object.values(this.lanes).flatMap(({ fields }) => [...fields.values()]))
  }
}

/** Width of the pictures in the nodes' help. */
const EXAMPLE = 128

function keepForProbe(
  state: LaneState,
  { later }: DrawRequest,
  channels: readonly Channel[],
  fields: ReadonlyMap<string, Field>,
): void {
  const before = state.fields
  state.fields = new Map(
    channels.flatMap(({ id }) => {
      const field = fields.get(id) ?? (later?.includes(id) ? before.get(id) : undefined)
      return field ? [[id, field]] : []
    }),
  )
  state.types = new Map(channels.map(({ id, type }) => [id, type]))
}

function wantedOutputs({ shown, swatches, bands, spread, later }: DrawRequest, document: MaterialDocument): string[] {
  const outputs = new Set<string>(channelsOf(document).map(({ id }) => id))
  for (const one of [shown, spread, ...swatches]) if (one) outputs.add(one)
  for (const layer of bands) outputs.add(`layer:${layer}:mask`)
  for (const output of later ?? []) outputs.delete(output)
  return [...outputs]
}

interface Made {
  readonly graph: PartialGraph
  readonly fields: ReadonlyMap<string, Field>
  readonly faults: Map<string, Fault>
  readonly evaluated: number
  readonly reused: number
}

/** Evaluates outputs; where a node fails, what hangs on it is left out and the rest goes on. */
async function evaluateWhatFits(
  host: EngineHost,
  document: MaterialDocument,
  wanted: readonly string[],
  width: number,
  isCancelled?: () => boolean,
  finish: Finish = {},
): Promise<Made> {
  const graph = expandWhatFits(document, registry, wanted, finish)
  const faults = new Map<string, Fault>([...graph.faults].map(([output, error]) => [output, faultOf(error)]))
  const { seed, heightMetres } = document
  const domain = { seed, metres: document.domain.metres, heightMetres }
  let outputs = wanted.filter((output) => graph.outputs.has(output))
  for (;;)
    try {
      const request = { graph, outputs, width, domain, isCancelled }
      const { fields, report } = await evaluateFields(host, request, { keepUniform: true })
      return { graph, fields, faults, evaluated: report.evaluated.length, reused: report.reused }
    } catch (error) {
      const node = error instanceof GristError && error.code !== 'cancelled' ? error.place.node : undefined
      if (node === undefined) throw error
      const lost = outputs.filter((output) => restsOn(graph.outputs.get(output)!, node))
      if (lost.length === 0) throw error
      for (const output of lost) faults.set(output, faultOf(error as GristError))
      outputs = outputs.filter((output) => !lost.includes(output))
    }
}

const faultOf = ({ detail, place: { node, layer, dial } }: GristError): Fault => ({
  message: detail,
  node,
  layer,
  dial,
})

function restsOn({ step }: PortRef, node: string, seen = new Set<Step>()): boolean {
  if (step.place.node === node) return true
  if (seen.has(step)) return false
  seen.add(step)
  return Object.values(step.inputs).some((ref) => ref !== null && restsOn(ref, node, seen))
}

function sizeOf(fields: ReadonlyMap<string, Field>, width: number): { width: number; height: number } {
  const [first] = fields.values()
  return { width, height: first?.height ?? width }
}

/** Key of what outputs hold, whatever the width. */
const keyOf = ({ graph }: Made, outputs: readonly string[]): string =>
  outputs
    .map((output) => graph.outputs.get(output))
    .map((ref) => (ref ? `${ref.step.key}.${ref.port}` : '-'))
    .join('+')

/** Whether the page lacks this: it has other content, or the same at a lower width. */
function fresh(state: LaneState, slot: string, key: string, width: number): boolean {
  const sent = state.sent.get(slot)
  return !sent || sent.key !== key || sent.width < width
}

function textures(state: LaneState, { lit, shown, width }: DrawRequest, made: Made): Drawn['textures'] {
  const out: Partial<Record<TextureSlot, TexturePicture>> = {}
  for (const { slot, outputs, make } of texturesOf(made.fields, { lit, shown })) {
    const key = keyOf(made, outputs)
    if (!fresh(state, slot, key, width)) continue
    state.sent.set(slot, { key, width })
    out[slot] = { key: `${key}@${width}`, ...make() }
  }
  return out
}

function swatches(state: LaneState, { swatches, width, later }: DrawRequest, made: Made): Drawn['swatches'] {
  const out: Record<string, SwatchPicture> = {}
  if (swatches.length === 0) return out
  const wanted = new Set(swatches.map((output) => `swatch ${output}`))
  for (const slot of state.sent.keys()) if (slot.startsWith('swatch ') && !wanted.has(slot)) state.sent.delete(slot)
  for (const output of swatches) {
    const field = made.fields.get(output)
    if (!field) {
      if (!later?.includes(output)) state.sent.delete(`swatch ${output}`)
      continue
    }
    const key = keyOf(made, [output])
    if (!fresh(state, `swatch ${output}`, key, width)) continue
    const small = reduceField(field, SWATCH)
    state.sent.set(`swatch ${output}`, { key, width })
    out[output] = { key, share: field.counts ? 0 : spreadOf(small, 1).planes[0]!.mean, ...displayBytes(small) }
  }
  return out
}

/** What a layer looks like in one colour: the mean of what it puts into colour, where its mask lets it show. */
function bands(state: LaneState, { bands }: DrawRequest, made: Made): Drawn['bands'] {
  if (bands.length === 0) return {}
  const { fields } = made
  const known = state.bands
  state.bands = new Map()
  for (const layer of bands) {
    const output = [`cell:${layer}:colour`, `layer:${layer}:colour`].find((one) => fields.has(one))
    if (!output) continue
    const masked = `layer:${layer}:mask`
    const key = keyOf(made, [output, masked])
    const before = known.get(layer)
    if (before?.key === key) {
      state.bands.set(layer, before)
      continue
    }
    const colour = fields.get(output)!
    const mask = fields.get(masked)
    const mean =
      colour.stride === 0
        ? weightedMean({ ...colour, width: 1, height: 1 }, null)
        : weightedMean(reduceField(colour, SWATCH), mask && mask.stride !== 0 ? reduceField(mask, SWATCH) : null)
    state.bands.set(layer, { key, colour: mean && linearToHex(mean) })
  }
  return Object.fromEntries(bands.map((layer) => [layer, state.bands.get(layer)?.colour ?? null]))
}

function spreadFor(output: string | null, fields: ReadonlyMap<string, Field>): Drawn['spread'] {
  const field = output === null ? undefined : fields.get(output)
  return field && !field.counts ? { output: output!, spread: spreadOf(field) } : null
}
