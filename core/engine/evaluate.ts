import { GristError, located } from '../errors'
import type { Field, PortType } from '../field/field'
import { copyRows, createField, cropField, fieldPlanes, tileSize } from '../field/field'
import type { ImagePyramid } from '../field/pyramid'
import { imageKey } from '../field/pyramid'
import type { Graph } from '../graph/graph'
import type { PartFacts } from '../document/domain'
import type { PatchSet } from '../field/patches'
import { NEAREST, footCount, isFull, tapCount } from '../field/patches'
import type { FieldCache } from './field-cache'
import { FieldMemory } from './field-memory'
import type { Plan, PlanRequest } from './plan'
import { carriedBytes, makePlan } from './plan'
import type { Band, PlannedStep } from './planned-step'
import type { Executor, PassSetting } from './pass'
import type { IslandRooms } from './pass-builder'
import { PassBuilder } from './pass-builder'
import type { Pyramids } from './pyramids'

/** What an evaluation needs from outside the core. */
export interface EngineHost {
  readonly executor: Executor
  readonly pyramids: Pyramids
  /** Pictures of the islands of parts; where there are none, what is at a seam is read as it lies in the picture. */
  readonly islands?: IslandPatches
  /** Keeps whole fields between evaluations; leave it out for bakes. */
  readonly cache?: FieldCache
}

/** Where pictures of a part's islands come from. Throws mesh-data-missing, cancelled. */
export interface IslandPatches {
  get(part: PartFacts, width: number, height: number, reach: number, isCancelled: () => boolean): Promise<PatchSet>
}

export interface EvaluateRequest {
  readonly graph: Graph
  /** Texts of outputs of the graph. */
  readonly outputs: readonly string[]
  /** Width in texels; the height follows from the metres. */
  readonly width: number
  /** Only these rows of the result. */
  readonly band?: Band
  /** Most bytes that fields may take at one time; the work is cut into bands to keep to it. */
  readonly budgetBytes?: number
  /** 0 to 1, not more often than once a task. */
  readonly onProgress?: (ratio: number) => void
  readonly isCancelled?: () => boolean
}

/** What an evaluation did; `evaluated` names the node types of the steps that ran, in order. */
export interface EvaluationReport {
  readonly evaluated: readonly string[]
  readonly reused: number
  readonly bands: number
  readonly forecastBytes: number
  /** The most that was held: fields in use, and memory kept for the next ones. */
  readonly peakBytes: number
}

/** Gets a band of every output, top to bottom; the fields are reused once it returns. */
export type BandSink = (fields: ReadonlyMap<string, Field>, band: Band) => void | Promise<void>

const MIN_ROWS = 16
/**
 * With a cache, results that take more nanoseconds a texel to make again are kept, even where they are read but once: so
 * that a change further on need not make them again.
 */
const KEEP_ABOVE = 12
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
  const { width, height } = tileSize(request.width, request.graph.domain.metres)
  const { band, rows, forecast } = chooseBands(request, width, height)
  const run = new Run(host, request, width, height)
  const count = Math.ceil(band.rows / rows)
  const parts = Array.from({ length: count }, (_, i) => {
    const top = band.top + i * rows
    return { top, rows: Math.min(rows, band.top + band.rows - top) }
  })
  try {
    let plan = run.plan(parts[0]!, null)
    const forecastBytes = forecast ?? plan.peakBytes
    for (const [i, part] of parts.entries()) {
      const next = i + 1 < count ? run.plan(parts[i + 1]!, plan) : null
      await run.execute(plan, next, (ratio) => request.onProgress?.((i + ratio) / count))
      await sink(run.results(plan), part)
      await run.releaseResults(plan, next)
      if (next) plan = next
    }
    request.onProgress?.(1)
    return { evaluated: run.evaluated, reused: run.reused, bands: count, forecastBytes, peakBytes: run.memory.peak }
  } finally {
    run.end()
  }
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
  const { height } = tileSize(request.width, request.graph.domain.metres)
  const whole = request.band ?? { top: 0, rows: height }
  const report = await evaluateBands(host, request, (results, band) => {
    for (const [name, field] of results) {
      if (band.rows === whole.rows) {
        // With a cache the field stays there too; fields are never written after they are made.
        const own = host.cache?.fits(field) === true && field.rows === height && (field.stride !== 0 || keepUniform)
        fields.set(name, own ? field : cropField(field, 0, band.top, field.width, band.rows))
        continue
      }
      const target = fields.get(name) ?? createField(field.type, field.width, whole.rows)
      fields.set(name, target)
      copyRows(field, target, band.top, band.top + band.rows, -whole.top)
    }
  })
  return { fields, report }
}

/** What an evaluation would take at the most: bytes of fields, and its bands. Throws size-invalid, memory-budget. */
export function forecastOf(request: EvaluateRequest): { readonly bytes: number; readonly bands: number } {
  const { graph, outputs } = request
  const { width, height } = tileSize(request.width, graph.domain.metres)
  const { band, rows, forecast } = chooseBands(request, width, height)
  const overIslands = graph.domain.part !== null
  const bytes = forecast ?? makePlan({ graph, outputs, width, height, band, overIslands }).peakBytes
  return { bytes, bands: Math.ceil(band.rows / rows) }
}

function chooseBands(
  { graph, outputs, band: asked, budgetBytes = Infinity }: EvaluateRequest,
  width: number,
  height: number,
): { band: Band; rows: number; forecast: number | null } {
  const band = asked ?? { top: 0, rows: height }
  if (budgetBytes === Infinity) return { band, rows: band.rows, forecast: null }
  const forecast = (rows: number): number =>
    forecastBytes({ graph, outputs, width, height, overIslands: graph.domain.part !== null }, band, rows)
  let rows = band.rows
  let bytes = forecast(rows)
  while (bytes > budgetBytes && rows > MIN_ROWS) {
    // Files code up to so many rows together: all bands but the last are multiples of it.
    rows = Math.max(MIN_ROWS, Math.ceil(rows / 2 / MIN_ROWS) * MIN_ROWS)
    bytes = forecast(rows)
  }
  if (bytes > budgetBytes)
    throw new GristError(
      'memory-budget',
      `At ${width} × ${height} this needs ${megabytes(bytes)} at the least but ${megabytes(budgetBytes)} are allowed. ` +
        'Allow more memory, or choose a smaller size.',
    )
  return { band, rows, forecast: bytes }
}

/** The most that bands of `rows` rows take: the first, or a later one with what stays from those before it. */
function forecastBytes(asked: Omit<PlanRequest, 'band'>, band: Band, rows: number): number {
  const first = makePlan({ ...asked, band: { top: band.top, rows } })
  if (rows >= band.rows) return first.peakBytes
  const isWhole = wholeFields(first)
  const has = (key: string, ports: readonly string[]): boolean => ports.every((port) => isWhole.has(nameOf(key, port)))
  const second = makePlan({ ...asked, band: { top: band.top + rows, rows }, has, before: first })
  const stays = carriedBytes(second)
  // What is at hand stands in the second plan too.
  return stays + Math.max(first.peakBytes, second.peakBytes)
}

/** Results of a plan that are whole, by key and port. */
function wholeFields({ steps, local, height }: Plan): ReadonlySet<string> {
  const names = new Set<string>()
  steps.forEach(({ key, ports, band }, at) => {
    if (band.rows === height && !local[at]) for (const port of ports) names.add(nameOf(key, port))
  })
  return names
}

/** What a result goes by within a run. */
const nameOf = (key: string, port: string): string => `${key}.${port}`

const megabytes = (bytes: number): string => `${Math.ceil(bytes / 1048576)} MB`

/** One evaluation at work: fields at hand, memory, counters. Fields are known by key and port. */
class Run {
  readonly evaluated: string[] = []
  reused = 0
  readonly memory: FieldMemory
  private readonly fields = new Map<string, Field>()
  /** Whole fields that later bands need again. */
  private readonly retained = new Map<string, Field>()
  /** The last rows of the band before, where the next one reads them too. */
  private readonly carried = new Map<string, Field>()
  private readonly prepared = new Map<string, unknown>()
  private readonly images = new Map<string, ImagePyramid>()
  private readonly patches = new Map<number, PatchSet>()
  private readonly isCancelled: () => boolean

  constructor(
    private readonly host: EngineHost,
    private readonly request: EvaluateRequest,
    private readonly width: number,
    private readonly height: number,
  ) {
    this.isCancelled = request.isCancelled ?? never
    this.memory = new FieldMemory(host.executor)
  }

  /** `before` is the band before, which is not made yet: whole fields stay from it. */
  plan(band: Band, before: Plan | null): Plan {
    const { graph, outputs } = this.request
    const { width, height } = this
    const whole = before ? wholeFields(before) : null
    const isKept = (name: string): boolean => whole?.has(name) === true || this.atHand(name) !== undefined
    const has = (key: string, ports: readonly string[]): boolean => ports.every((port) => isKept(nameOf(key, port)))
    const keepAbove = this.host.cache ? KEEP_ABOVE : Infinity
    const overIslands = graph.domain.part !== null && this.host.islands !== undefined
    return makePlan({ graph, outputs, width, height, band, has, before: before ?? undefined, keepAbove, overIslands })
  }

  /** A field kept from before: by the cache, or by an earlier band. */
  private atHand(name: string): Field | undefined {
    return this.retained.get(name) ?? this.host.cache?.get(this.cacheKey(name))
  }

  /** Within a run all fields are of one size; the cache holds fields of any. */
  private cacheKey(name: string): string {
    return `${name}@${this.width}x${this.height}`
  }

  async execute(plan: Plan, next: Plan | null, onProgress: (ratio: number) => void): Promise<void> {
    const { steps, units } = plan
    const inUnit = new Set(units.flat())
    // What is at hand is taken out first: the cache may drop it while the rest is made.
    steps.forEach(({ key, ports }, at) => {
      if (inUnit.has(at)) return
      for (const port of ports) this.fields.set(nameOf(key, port), this.atHand(nameOf(key, port))!)
      this.reused++
    })
    const planned = units.flatMap((unit) => unit.map((at) => steps[at]!))
    await this.fetchImages(planned)
    await this.fetchPatches(planned)
    const pass = this.beginPass(plan, onProgress)
    try {
      await this.runUnits(plan, next, pass)
    } finally {
      // What was done before the work was cancelled need not be done again.
      this.cacheResults(plan, pass.completed)
    }
  }

  private async runUnits(plan: Plan, next: Plan | null, pass: PassBuilder): Promise<void> {
    const { steps, units, freed, local } = plan
    const later = stepsByName(next)
    for (const [number, unit] of units.entries()) {
      for (const at of unit) {
        const planned = steps[at]!
        if (!planned.step.node.prepare || this.prepared.has(planned.key)) continue
        // What it reads may be among what was not done yet.
        if (planned.step.reads.length > 0) await this.runPass(pass)
        await this.prepare(plan, planned)
      }
      for (const at of unit) if (!local[at]) this.createFields(steps[at]!, pass)
      const scratch = this.scratchOf(unit.map((at) => steps[at]!))
      const rooms = this.roomsOf(steps[unit[0]!]!, plan)
      pass.addUnit(unit, this.fields, this.prepared, scratch, rooms)
      for (const room of [...(scratch ? [scratch] : []), ...fieldsOf(rooms)]) this.recycle(room)
      for (const at of unit) if (steps[at]!.from < end(steps[at]!)) this.evaluated.push(steps[at]!.step.node.type)
      if (plan.band.rows < this.height)
        for (const at of unit) if (!local[at] && steps[at]!.band.rows === this.height) this.retain(steps[at]!)
      for (const at of freed[number]!) if (!local[at]) this.release(steps[at]!, later, pass)
    }
    await this.runPass(pass)
  }

  private beginPass(plan: Plan, onProgress: (ratio: number) => void): PassBuilder {
    return new PassBuilder(plan, this.setting, this.host.executor.threads, onProgress)
  }

  private get setting(): PassSetting {
    const { seed, metres, heightMetres, part } = this.request.graph.domain
    const { width, height, images, patches } = this
    return { width, height, tileTexels: width, documentSeed: seed, metres, heightMetres, part, images, patches }
  }

  private async runPass(pass: PassBuilder): Promise<void> {
    await pass.run(this.host.executor, this.isCancelled)
  }

  /** Makes fields for the results of a step, and has them begin with the rows that the band before made. */
  private createFields(planned: PlannedStep, pass: PassBuilder): void {
    const { ports, band, key, from } = planned
    for (const port of ports) {
      const name = nameOf(key, port)
      const field = this.createField(planned, port)
      this.fields.set(name, field)
      const carried = from > band.top ? this.carried.get(name) : undefined
      if (!carried) continue
      this.carried.delete(name)
      pass.addCopy(carried, field, band.top, from)
      this.recycle(carried)
    }
  }

  private createField({ step, band }: PlannedStep, port: string): Field {
    const type = step.outputs[port]!
    if (!step.uniform) return createField(type, this.width, this.height, band, this.memory.acquire)
    const row = createField(type, this.width, this.height, { top: 0, rows: 1 }, this.memory.acquire)
    return { ...row, rows: this.height, stride: 0 }
  }

  /** Room for a step that makes all rows in one go; over islands each takes its own. */
  private scratchOf([planned]: readonly PlannedStep[]): Field | null {
    const { step, params, band, sliceable, reach = 0 } = planned!
    const planes = sliceable || isFull(reach) || step.uniform ? 0 : (step.node.scratchPlanes?.(params as never) ?? 0)
    if (planes === 0) return null
    const rows = { top: 0, rows: planes * band.rows }
    return createField('grey', this.width, planes * band.rows, rows, this.memory.acquire)
  }

  /** Room for a step over islands; null where it is done as on a tile. */
  private roomsOf({ step, reach = 0, ports }: PlannedStep, { steps, places }: Plan): IslandRooms | null {
    const set = reach > 0 ? this.patches.get(reach)! : null
    if (!set) return null
    const room = (type: PortType, width: number, height: number): Field =>
      createField(type, width, height, undefined, this.memory.acquire)
    const byPort = (make: (type: PortType) => Field): Record<string, Field> =>
      Object.fromEntries(
        ports.filter((port) => step.outputs[port] !== 'id').map((port) => [port, make(step.outputs[port]!)]),
      )
    const count = step.node.mixedAtSeams ? tapCount(set) : 0
    const taps = count > 0 ? byPort((type) => room(type, count, 1)) : {}
    if (set.coarse === 1) return { taps, coarse: null }
    const [width, height] = [this.width / set.coarse, this.height / set.coarse]
    const inputsAt = (across: number, down: number): Record<string, Field> => {
      const made: Record<string, Field> = {}
      for (const [name, ref] of Object.entries(step.inputs)) {
        const from = ref && steps[places[ref.step.index]!]!
        const type = from?.step.outputs[ref!.port]
        if (!from || type === undefined || type === 'id') continue
        const { stride } = this.fields.get(nameOf(from.key, ref.port))!
        made[name] =
          stride === 0 ? { ...room(type, across, 1), height: down, rows: down, stride: 0 } : room(type, across, down)
      }
      return made
    }
    const all = (): Record<string, Field> => byPort((type) => room(type, width, height))
    const padded = inputsAt(this.width, this.height)
    const inputs = inputsAt(width, height)
    const feet = count > 0 ? footCount(set) : 0
    const overSeams = feet > 0 ? byPort((type) => room(type, feet, 1)) : {}
    return { taps, coarse: { padded, inputs, plain: all(), over: all(), steps: overSeams } }
  }

  /** What all rows of a step share, made once for all its bands. */
  private async prepare({ steps, places }: Plan, { step, params, key }: PlannedStep): Promise<void> {
    const inputs = Object.fromEntries(
      Object.entries(step.inputs).map(([name, ref]) => {
        const from = ref && steps[places[ref.step.index]!]!
        return [name, from && this.fields.get(nameOf(from.key, ref.port))!]
      }),
    )
    const task = { type: step.node.type, params, inputs, setting: this.setting }
    this.prepared.set(key, await this.host.executor.prepare(task, this.isCancelled))
  }

  private async fetchImages(planned: readonly PlannedStep[]): Promise<void> {
    for (const { step, params, ports } of planned) {
      const { domain } = this.request.graph
      if (domain.part && step.node.tilesOnly)
        throw new GristError('parameter-invalid', step.node.tilesOnly).at(step.place)
      const requests = located(step.place, () => step.node.images?.(params as never, ports, domain) ?? [])
      for (const request of requests) {
        const key = imageKey(request)
        if (this.images.has(key)) continue
        const pyramid = await this.host.pyramids.get(request).catch((error: unknown) => {
          throw error instanceof GristError ? error.at(step.place) : error
        })
        this.images.set(key, pyramid)
      }
    }
  }

  private async fetchPatches(planned: readonly PlannedStep[]): Promise<void> {
    const { part } = this.request.graph.domain
    const reaches = new Set(planned.flatMap(({ reach }) => (reach === undefined ? [] : [reach])))
    // What such steps leave out is filled from the nearest.
    if ([...reaches].some(isFull)) reaches.add(NEAREST)
    for (const reach of reaches)
      if (!this.patches.has(reach))
        this.patches.set(reach, await this.host.islands!.get(part!, this.width, this.height, reach, this.isCancelled))
  }

  private retain({ key, ports }: PlannedStep): void {
    for (const port of ports) this.retained.set(nameOf(key, port), this.fields.get(nameOf(key, port))!)
  }

  /** Lets a field go that nobody reads any more in this band, but for the rows that the next one reads. */
  private release({ key, ports }: PlannedStep, next: ReadonlyMap<string, PlannedStep>, pass: PassBuilder): void {
    // With a cache, callers and later evaluations may hold the field: its memory is never written again.
    if (this.host.cache) return
    for (const port of ports) {
      const name = nameOf(key, port)
      const field = this.fields.get(name)
      this.fields.delete(name)
      if (!field || this.retained.has(name)) continue
      const wanted = next.get(name)
      if (wanted && wanted.from > wanted.band.top) {
        const rows = { top: wanted.band.top, rows: wanted.from - wanted.band.top }
        const rest = createField(field.type, field.width, field.height, rows, this.memory.acquire)
        pass.addCopy(field, rest, rows.top, rows.top + rows.rows)
        this.carried.set(name, rest)
      }
      this.recycle(field)
    }
  }

  private recycle(field: Field): void {
    for (const plane of fieldPlanes(field)) this.memory.give(plane)
  }

  /** Hands whole fields of units over to the cache. */
  private cacheResults({ steps, units, local }: Plan, completed: ReadonlySet<number>): void {
    const { cache } = this.host
    if (!cache) return
    for (const at of [...completed].flatMap((number) => units[number]!)) {
      const { key, ports, band } = steps[at]!
      if (local[at] || band.rows < this.height) continue
      for (const port of ports) {
        const name = nameOf(key, port)
        const field = this.fields.get(name)!
        if (cache.put(this.cacheKey(name), field)) for (const plane of fieldPlanes(field)) this.memory.handOver(plane)
      }
    }
  }

  results(plan: Plan): Map<string, Field> {
    return new Map(
      [...plan.outputs].map(([name, { step, port }]) => {
        const { key } = plan.steps[plan.places[step.index]!]!
        return [name, this.fields.get(nameOf(key, port))!]
      }),
    )
  }

  async releaseResults(plan: Plan, next: Plan | null): Promise<void> {
    const later = stepsByName(next)
    const pass = this.beginPass(plan, () => {})
    const asked = new Set([...plan.outputs.values()].map(({ step }) => plan.places[step.index]!))
    for (const at of asked) this.release(plan.steps[at]!, later, pass)
    await this.runPass(pass)
  }

  /** Gives back what is still held, such as after work that was cancelled. */
  end(): void {
    this.memory.end()
  }
}

const end = ({ band }: PlannedStep): number => band.top + band.rows

/** The steps of a plan by the names of their results. */
function stepsByName(plan: Plan | null): ReadonlyMap<string, PlannedStep> {
  const steps = new Map<string, PlannedStep>()
  for (const planned of plan?.steps ?? [])
    for (const port of planned.ports) steps.set(`${planned.key}.${port}`, planned)
  return steps
}

const fieldsOf = (rooms: IslandRooms | null): Field[] =>
  rooms ? [rooms.taps, ...Object.values(rooms.coarse ?? {})].flatMap((fields) => Object.values(fields)) : []
