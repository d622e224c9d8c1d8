import type { PortType } from '../field/field'
import { fieldBytes } from '../field/field'
import { COLLAR, LINKS, NEAREST, coarseOf, reachFor } from '../field/patches'
import type { FootprintSize } from '../graph/footprint'
import { footprintOf } from '../graph/footprint'
import type { Graph, PortRef, Step } from '../graph/graph'
import type { Band, PlannedStep } from './planned-step'
import type { PlannedUnit } from './units'
import { localSteps, unitsOf } from './units'

/** What to evaluate, in order, for a band of some outputs. */
export interface Plan {
  readonly width: number
  readonly height: number
  readonly band: Band
  readonly steps: readonly PlannedStep[]
  readonly outputs: ReadonlyMap<string, PortRef>
  /** Where a step of the graph, or one equal to it, stands among `steps`; −1 where it is not needed. By its index. */
  readonly places: Int32Array
  /** What is done together, in order. Steps at hand are in none. */
  readonly units: readonly PlannedUnit[]
  /** By step: whether it lives within its unit only, and has no field of its own. */
  readonly local: Uint8Array
  /** By unit: the steps whose fields nobody reads any more after it. Those of outputs are in none. */
  readonly freed: readonly (readonly number[])[]
  /** Forecast of the largest memory that its own fields take at one time, in bytes. */
  readonly peakBytes: number
}

export interface PlanRequest {
  readonly graph: Graph
  /** Texts of outputs of the graph. */
  readonly outputs: readonly string[]
  readonly width: number
  readonly height: number
  /** The whole raster where absent. */
  readonly band?: Band
  /** Whether results are at hand already: then what only they need is left out. */
  readonly has?: (key: string, ports: readonly string[]) => boolean
  /** The band above it: rows that this made are not made again. */
  readonly before?: Plan
  /** Whether steps that read neighbours do so over the islands of a part, whole. */
  readonly overIslands?: boolean
  /** What takes more nanoseconds a texel to make again is kept, even if it is read within its unit only. */
  readonly keepAbove?: number
}

/**
 * Works out which steps are needed, over which rows, and how much memory that takes; equal steps are one. A step reads its
 * footprint more on each side than it makes; where that covers the raster, and where all rows are made in one go, the
 * whole is taken. Takes time in proportion to the steps of the graph.
 */
export function makePlan({
  graph,
  outputs,
  width,
  height,
  band: asked,
  has,
  before,
  overIslands = false,
  keepAbove = Infinity,
}: PlanRequest): Plan {
  const { steps, domain, same } = graph
  const whole: Band = { top: 0, rows: height }
  const band = asked ?? whole
  const size = { width, height, metres: domain.metres }
  // What is known of each step so far: outputs that somebody reads, and rows.
  const ports = new Array<readonly string[] | undefined>(steps.length)
  const first = new Int32Array(steps.length)
  const end = new Int32Array(steps.length)
  const want = (index: number, port: string, top: number, rows: number): void => {
    const known = ports[index]
    if (!known) {
      ports[index] = alone(port)
      first[index] = top
      end[index] = top + rows
      return
    }
    if (!known.includes(port)) ports[index] = [...known, port]
    if (top < first[index]!) first[index] = top
    if (top + rows > end[index]!) end[index] = top + rows
  }
  const found = new Map(outputs.map((name) => [name, graph.outputs.get(name)!]))
  for (const { step, port } of found.values()) want(same[step.index]!, port, band.top, band.rows)

  const made = before && new Map(before.steps.map((planned) => [planned.key, planned]))
  const planned: PlannedStep[] = []
  const isMade: boolean[] = []
  const isPoint: boolean[] = []
  const places = new Int32Array(steps.length).fill(-1)
  for (let i = steps.length - 1; i >= 0; i--) {
    const wanted = ports[i]
    if (!wanted) continue
    const step = steps[i]!
    const { params, digest: key } = step
    const sliceable = step.node.sliceable !== false
    const rows = end[i]! - first[i]!
    const reach = overIslands ? reachOf(step, size) : undefined
    const takesAll = rows >= height || !sliceable || step.uniform || reach !== undefined
    const own = takesAll ? whole : { top: first[i]!, rows }
    const from = firstRow(own, wanted, made?.get(key))
    places[i] = planned.length
    planned.push({ step, params, key, ports: wanted, band: own, from, sliceable, reach })
    const making = own.top + own.rows - from
    const isMissing = !has?.(key, wanted)
    isMade.push(isMissing)
    isPoint.push(false)
    if (making === 0 || !isMissing) continue
    const footprint = step.uniform ? 'whole' : footprintOf(step.node, params, size)
    isPoint[isPoint.length - 1] = footprint === 'point'
    const margin = footprint === 'point' ? 0 : footprint
    const [top, wide] = margin === 'whole' ? [0, height] : [from - margin, making + 2 * margin]
    const { reads, feeding } = step
    for (let k = 0; k < reads.length; k++) want(same[feeding[k]!]!, reads[k]!.port, top, wide)
  }
  planned.reverse()
  for (let i = 0; i < steps.length; i++) if (places[i]! >= 0) places[i] = planned.length - 1 - places[i]!
  for (let i = 0; i < steps.length; i++) places[i] = places[same[i]!]!
  const known = {
    steps: planned,
    made: Uint8Array.from(isMade.reverse(), Number),
    point: Uint8Array.from(isPoint.reverse(), Number),
    feeding: (at: number) => planned[at]!.step.feeding.map((from) => places[from]!).filter((from) => from >= 0),
  }
  const units = unitsOf(known)
  const given = [...found.values()].map(({ step }) => places[step.index]!)
  const local = localSteps(known, units, given, keepAbove)
  const plan = { width, height, band, steps: planned, outputs: found, places, units, local }
  const freed = freedBy(plan)
  return { ...plan, freed, peakBytes: peakOf({ ...plan, freed }) }
}

/** How far a step reads beyond an island: undefined where it reads no neighbours or all of the raster: then it is done as on a tile. */
function reachOf({ node, params, uniform }: Step, size: FootprintSize): number | undefined {
  if (node.readsIslands && !uniform) return node.readsIslands === 'links' ? LINKS : NEAREST
  if (uniform || node.prepare || (node.sliceable === false && !node.footprintOnPart)) return undefined
  const footprint = footprintOf({ footprint: node.footprintOnPart ?? node.footprint }, params, size)
  if (typeof footprint !== 'number' || footprint === 0 || footprint >= size.height) return undefined
  return reachFor(node.mixedAtSeams ? footprint / (1 - COLLAR) : footprint, size)
}

/** A list of one port; most steps have one, and share it. */
function alone(port: string): readonly string[] {
  let list = LISTS.get(port)
  if (!list) LISTS.set(port, (list = [port]))
  return list
}
const LISTS = new Map<string, readonly string[]>()

/** Rows that the band before made, and that stay for this one, come before it. */
function firstRow(own: Band, ports: readonly string[], before: PlannedStep | undefined): number {
  if (!before || before.band.top > own.top || !ports.every((port) => before.ports.includes(port))) return own.top
  return Math.min(own.top + own.rows, Math.max(own.top, before.band.top + before.band.rows))
}

type Unfreed = Omit<Plan, 'freed' | 'peakBytes'>

function freedBy({ steps, outputs, places, units }: Unfreed): (readonly number[])[] {
  const lastUse = new Int32Array(steps.length).fill(-1)
  units.forEach((unit, number) => {
    for (const at of unit)
      for (const from of steps[at]!.step.feeding) if (places[from]! >= 0) lastUse[places[from]!] = number
  })
  for (const { step } of outputs.values()) lastUse[places[step.index]!] = -1
  const freed = new Array<number[]>(units.length).fill(NONE)
  for (let at = 0; at < steps.length; at++) {
    const last = lastUse[at]!
    if (last < 0) continue
    if (freed[last] === NONE) freed[last] = [at]
    else freed[last]!.push(at)
  }
  return freed
}

const NONE: number[] = []

/** Bytes of the outputs of a planned step that somebody reads, over some rows. */
export function stepBytes({ step, ports }: Pick<PlannedStep, 'step' | 'ports'>, width: number, rows: number): number {
  const count = step.uniform ? 1 : rows
  let bytes = 0
  for (const port of ports) bytes += fieldBytes(step.outputs[port] as PortType, width, count)
  return bytes
}

/** Bytes of the rows that a plan takes over from the band before. */
export const carriedBytes = ({ steps, width }: Plan): number =>
  steps.reduce((sum, planned) => sum + stepBytes(planned, width, planned.from - planned.band.top), 0)

/** Room of a step that reads so far over islands that a coarse raster is for it: what it reads twice, its results twice. */
function coarseBytes({ step, reach = 0, ports }: PlannedStep, width: number, height: number): number {
  const coarse = coarseOf(reach)
  if (coarse === 1) return 0
  const texels = (width * height) / coarse ** 2
  let bytes = 0
  for (const ref of Object.values(step.inputs))
    if (ref) bytes += fieldBytes(ref.step.outputs[ref.port]!, width, height) * (1 + 1 / coarse ** 2)
  for (const port of ports) bytes += 2 * fieldBytes(step.outputs[port]!, texels, 1)
  return bytes
}

function peakOf({ steps, units, local, freed, width, band, height }: Omit<Plan, 'peakBytes'>): number {
  const banded = band.rows < height
  const bytes = new Float64Array(steps.length)
  const inUnit = new Uint8Array(steps.length)
  for (const unit of units) for (const at of unit) inUnit[at] = 1
  // Rows at hand from the start: those that bands hand on.
  let bytesInUse = 0
  let peak = 0
  const begin = (at: number): number => {
    const { step, params, band: own } = steps[at]!
    bytes[at] = local[at] ? 0 : stepBytes(steps[at]!, width, own.rows)
    bytesInUse += bytes[at]!
    const planes = step.uniform ? 0 : (step.node.scratchPlanes?.(params as never) ?? 0)
    return planes * width * own.rows * 4 + coarseBytes(steps[at]!, width, height)
  }
  for (let at = 0; at < steps.length; at++) if (!inUnit[at]) begin(at)
  units.forEach((unit, number) => {
    let scratch = 0
    for (const at of unit) scratch = Math.max(scratch, begin(at))
    peak = Math.max(peak, bytesInUse + scratch)
    for (const at of freed[number]!) if (!(banded && steps[at]!.band.rows === height)) bytesInUse -= bytes[at]!
  })
  return Math.max(peak, bytesInUse)
}
