import { GristError } from '../errors'
import type { Allocate, Field } from '../field/field'
import { createField, cropField, fieldBuffers, rowStart, tileSize } from '../field/field'
import type { ImagePyramid, ImageRequest } from '../field/pyramid'
import { imageKey } from '../field/pyramid'
import type { Graph, PortRef, Step } from '../graph/graph'
import type { FieldCache } from './field-cache'
import { costOf } from './costs'
import type { Band, Plan, PlannedStep } from './plan'
import { makePlan, sizedKey } from './plan'
import type { Executor } from './rows-task'

/** What an evaluation needs from outside the core. */
export interface EngineHost {
  readonly executor: Executor
  /** Loads an image a document names. Throws asset-missing or file-invalid. */
  loadImage(request: ImageRequest): Promise<ImagePyramid>
  /** Keeps whole fields between evaluations; leave it out for bakes. */
  readonly cache?: FieldCache
}

export interface EvaluateRequest {
  readonly graph: Graph
  readonly outputs: readonly string[]
  /** Width in texels; the height follows from the metres. */
  readonly width: number
  readonly domain: { seed: number; metres: readonly [number, number]; heightMetres: number }
  /** Only these rows of the result. */
  readonly band?: Band
  /** Most bytes that fields may take at one time; the work is cut into bands to keep to it. */
  readonly budgetBytes?: number
  /** 0 to 1, not more often than once a task. */
  readonly onProgress?: (share: number) => void
  readonly isCancelled?: () => boolean
}

/** What an evaluation did; `evaluated` names the node types of the steps that ran, in order. */
export interface EvaluationReport {
  readonly evaluated: readonly string[]
  readonly reused: number
  readonly bands: number
  readonly forecastBytes: number
  readonly peakBytes: number
}

/** Gets a band of every output, top to bottom; the fields are reused once it returns. */
export type BandSink = (fields: ReadonlyMap<string, Field>, band: Band) => void | Promise<void>

const FEWEST_ROWS = 16
const never = (): boolean => false

/**
 * Evaluates outputs and hands them to `sink` band by band; one band where memory allows.
 * Throws size-invalid, memory-budget, asset-missing, cancelled.
 */
export async function evaluateBands(
  host: EngineHost,
  request: EvaluateRequest,
  sink: BandSink,
): Promise<EvaluationReport> {
  const { width, height } = tileSize(request.width, request.domain.metres)
  const { band, rows, forecast } = chooseBands(request, height)
  const run = new Run(host, request, width, height)
  const count = Math.ceil(band.rows / rows)
  for (let i = 0; i < count; i++) {
    const top = band.top + i * rows
    const part = { top, rows: Math.min(rows, band.top + band.rows - top) }
    const plan = run.plan(part)
    await run.execute(plan, (share) => request.onProgress?.((i + share) / count), count > 1)
    await sink(run.results(plan), part)
    run.releaseResults(plan)
  }
  request.onProgress?.(1)
  return { evaluated: run.evaluated, reused: run.reused, bands: count, forecastBytes: forecast, peakBytes: run.peak }
}

/**
 * Evaluates outputs into fields of their own. With `keepUniform`, a field that is one value everywhere stays one row;
 * else it is written out.
 */
export async function evaluateFields(
  host: EngineHost,
  request: EvaluateRequest,
  { keepUniform = false }: { keepUniform?: boolean } = {},
): Promise<{ fields: Map<string, Field>; report: EvaluationReport }> {
  const fields = new Map<string, Field>()
  const { height } = tileSize(request.width, request.domain.metres)
  const whole = request.band ?? { top: 0, rows: height }
  const report = await evaluateBands(host, request, (results, band) => {
    for (const [name, field] of results) {
      if (band.rows === whole.rows) {
        // With a cache the field stays there too; fields are never written after they are made.
        const own = host.cache && field.rows === height && (field.stride !== 0 || keepUniform)
        fields.set(name, own ? field : cropField(field, 0, band.top, field.width, band.rows))
        continue
      }
      const target = fields.get(name) ?? createField(field.type, field.width, whole.rows)
      fields.set(name, target)
      copyRows(field, band, target, band.top - whole.top)
    }
  })
  return { fields, report }
}

function copyRows(from: Field, band: Band, to: Field, row: number): void {
  for (let y = 0; y < band.rows; y++) {
    const start = rowStart(from, band.top + y)
    const target = (row + y) * to.width
    from.planes.forEach((plane, p) => to.planes[p]!.set(plane.subarray(start, start + to.width), target))
    if (from.counts) to.counts!.set(from.counts.subarray(start, start + to.width), target)
  }
}

function chooseBands(request: EvaluateRequest, height: number): { band: Band; rows: number; forecast: number } {
  const { graph, outputs, width } = request
  const { metres } = request.domain
  const band = request.band ?? { top: 0, rows: height }
  const forecast = (rows: number): number =>
    makePlan({ graph, outputs, width, height, metres, band: { top: band.top, rows } }).peakBytes
  const budget = request.budgetBytes ?? Infinity
  let rows = band.rows
  let bytes = forecast(rows)
  while (bytes > budget && rows > FEWEST_ROWS) {
    rows = Math.max(FEWEST_ROWS, Math.ceil(rows / 2))
    bytes = forecast(rows)
  }
  if (bytes > budget)
    throw new GristError(
      'memory-budget',
      `At ${width} × ${height} this needs ${megabytes(bytes)} at the least but ${megabytes(budget)} are allowed. ` +
        'Allow more memory, or choose a smaller size.',
    )
  return { band, rows, forecast: bytes }
}

const megabytes = (bytes: number): string => `${Math.ceil(bytes / 1048576)} MB`

const stepCost = ({ step, band }: PlannedStep): number => costOf(step) * band.rows

/** One evaluation at work: fields at hand, buffers to reuse, counters. */
class Run {
  readonly evaluated: string[] = []
  reused = 0
  peak = 0
  private held = 0
  private readonly fields = new Map<string, Field>()
  /** Whole fields that later bands need again. */
  private readonly retained = new Map<string, Field>()
  private readonly spare = new Map<number, ArrayBufferLike[]>()
  private readonly images = new Map<string, ImagePyramid>()
  private readonly isCancelled: () => boolean

  constructor(
    private readonly host: EngineHost,
    private readonly request: EvaluateRequest,
    private readonly width: number,
    private readonly height: number,
  ) {
    this.isCancelled = request.isCancelled ?? never
  }

  plan(band: Band): Plan {
    const { graph, outputs } = this.request
    return makePlan({
      graph,
      outputs,
      width: this.width,
      height: this.height,
      metres: this.request.domain.metres,
      band,
      has: (step, ports) => ports.every((port) => this.atHand(step, port) !== undefined),
    })
  }

  /** A field kept from before: by the cache, or by an earlier band. */
  private atHand(step: Step, port: string): Field | undefined {
    const key = this.portKey({ step, port })
    return this.retained.get(key) ?? this.host.cache?.get(key)
  }

  private portKey({ step, port }: PortRef): string {
    return `${sizedKey(step, this.width, this.height)}.${port}`
  }

  async execute(plan: Plan, onProgress: (share: number) => void, banded: boolean): Promise<void> {
    // What is at hand is taken out first: the cache may drop it while the rest is made.
    for (const { step, ports } of plan.steps) {
      const found = ports.map((port) => this.atHand(step, port))
      if (found.some((field) => field === undefined)) continue
      ports.forEach((port, i) => this.fields.set(this.portKey({ step, port }), found[i]!))
      this.reused++
    }
    const missing = plan.steps.filter(({ step, ports }) => !this.fields.has(this.portKey({ step, port: ports[0]! })))
    const total = missing.reduce((sum, planned) => sum + stepCost(planned), 0)
    let done = 0
    for (let index = 0; index < plan.steps.length; index++) {
      const planned = plan.steps[index]!
      if (!this.fields.has(this.portKey({ step: planned.step, port: planned.ports[0]! }))) {
        await this.runStep(planned)
        done += stepCost(planned)
        onProgress(total === 0 ? 1 : done / total)
        if (banded && planned.band.rows === this.height && planned.lastUse < plan.steps.length) this.retain(planned)
      }
      for (const earlier of plan.steps) if (earlier.lastUse === index) this.release(earlier)
    }
  }

  private async runStep({ step, ports, band }: PlannedStep): Promise<void> {
    const { executor } = this.host
    const allocate: Allocate = (bytes) => this.takeBuffer(bytes)
    const outputs: Record<string, Field> = {}
    for (const port of ports) {
      const type = step.outputs[port]!
      outputs[port] = step.uniform
        ? { ...createField(type, this.width, this.height, { top: 0, rows: 1 }, allocate), rows: this.height, stride: 0 }
        : createField(type, this.width, this.height, band, allocate)
    }
    this.peak = Math.max(this.peak, this.held)
    const inputs = Object.fromEntries(
      Object.entries(step.inputs).map(([name, ref]) => [name, ref && this.fields.get(this.portKey(ref))!]),
    )
    const { seed, metres, heightMetres } = this.request.domain
    const task = {
      type: step.node.type,
      params: step.params,
      inputs,
      outputs,
      width: this.width,
      height: this.height,
      documentSeed: seed,
      metres,
      heightMetres,
      images: await this.imagesOf(step),
    }
    const [from, to] = step.uniform ? [0, 1] : [band.top, band.top + band.rows]
    const whole = step.node.reach(step.params as never, { width: this.width, height: this.height, metres }) === 'whole'
    const parts = whole || step.uniform ? 1 : Math.min(executor.threads, Math.ceil((to - from) / FEWEST_ROWS))
    const cut = (i: number): number => from + Math.floor(((to - from) * i) / parts)
    await Promise.all(
      Array.from({ length: parts }, (_, i) =>
        executor.run({ ...task, from: cut(i), to: cut(i + 1) }, this.isCancelled),
      ),
    )
    this.evaluated.push(step.node.type)
    for (const port of ports) {
      const key = this.portKey({ step, port })
      this.fields.set(key, outputs[port]!)
      if (this.host.cache && band.rows === this.height) this.host.cache.put(key, outputs[port]!)
    }
  }

  private async imagesOf(step: Step): Promise<ReadonlyMap<string, ImagePyramid>> {
    const own = new Map<string, ImagePyramid>()
    for (const request of step.node.images?.(step.params as never) ?? []) {
      const key = imageKey(request)
      const pyramid = this.images.get(key) ?? (await this.loadImage(request, step))
      this.images.set(key, pyramid)
      own.set(key, pyramid)
    }
    return own
  }

  private async loadImage(request: ImageRequest, step: Step): Promise<ImagePyramid> {
    try {
      return await this.host.loadImage(request)
    } catch (error) {
      throw error instanceof GristError ? error.at(step.place) : error
    }
  }

  private takeBuffer(bytes: number): ArrayBufferLike {
    this.held += bytes
    return this.spare.get(bytes)?.pop() ?? this.host.executor.allocate(bytes)
  }

  private retain({ step, ports }: PlannedStep): void {
    for (const port of ports) {
      const key = this.portKey({ step, port })
      this.retained.set(key, this.fields.get(key)!)
    }
  }

  private release({ step, ports }: PlannedStep): void {
    for (const port of ports) {
      const key = this.portKey({ step, port })
      const field = this.fields.get(key)
      this.fields.delete(key)
      // With a cache, callers and later evaluations may hold the field: its memory is never written again.
      if (!field || this.retained.has(key) || this.host.cache) continue
      for (const buffer of fieldBuffers(field)) {
        this.held -= buffer.byteLength
        const list = this.spare.get(buffer.byteLength)
        if (list) list.push(buffer)
        else this.spare.set(buffer.byteLength, [buffer])
      }
    }
  }

  results(plan: Plan): Map<string, Field> {
    return new Map([...plan.outputs].map(([name, ref]) => [name, this.fields.get(this.portKey(ref))!]))
  }

  releaseResults(plan: Plan): void {
    for (const planned of plan.steps) if (planned.lastUse === plan.steps.length) this.release(planned)
  }
}
