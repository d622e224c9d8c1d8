import type { PortType } from '../field/field'
import { fieldBytes } from '../field/field'
import type { Graph, PortRef, Step } from '../graph/graph'
import { costOf } from './costs'

/** Rows of the whole raster; may begin above row 0 or end below the last, as tiles wrap. */
export interface Band {
  readonly top: number
  readonly rows: number
}

export interface PlannedStep {
  readonly step: Step
  /** Outputs somebody reads. */
  readonly ports: readonly string[]
  readonly band: Band
  /** Index in the plan of the last step that reads it; the plan's length where it is asked for. */
  readonly lastUse: number
}

/** What to evaluate, in order, for a band of some outputs. */
export interface Plan {
  readonly width: number
  readonly height: number
  readonly band: Band
  readonly steps: readonly PlannedStep[]
  readonly outputs: ReadonlyMap<string, PortRef>
  /** Forecast of the largest memory held by fields at one time, in bytes. */
  readonly peakBytes: number
  /** Forecast of the work, in nanoseconds on the machine the table was measured on. */
  readonly cost: number
}

export interface PlanRequest {
  readonly graph: Graph
  readonly outputs: readonly string[]
  readonly width: number
  readonly height: number
  readonly metres: readonly [number, number]
  /** The whole raster where absent. */
  readonly band?: Band
  /** Steps whose wanted ports are at hand already: they and what only they need are left out. */
  readonly has?: (step: Step, ports: readonly string[]) => boolean
}

/** The key of a step's result at a size. Same key, same bits. */
export const sizedKey = (step: Step, width: number, height: number): string => `${step.key}@${width}x${height}`

/**
 * Works out which steps are needed, over which rows, and how much memory and time that takes.
 * A step reads `reach` rows more on each side than it gives; where that covers the raster, the whole is taken.
 */
export function makePlan(request: PlanRequest): Plan {
  const { graph, width, height, metres } = request
  const whole: Band = { top: 0, rows: height }
  const band = request.band ?? whole
  const wanted = new Map<Step, { ports: Set<string>; from: number; to: number }>()
  const want = (ref: PortRef, from: number, to: number): void => {
    const known = wanted.get(ref.step)
    if (!known) wanted.set(ref.step, { ports: new Set([ref.port]), from, to })
    else {
      known.ports.add(ref.port)
      known.from = Math.min(known.from, from)
      known.to = Math.max(known.to, to)
    }
  }
  const outputs = new Map(request.outputs.map((name) => [name, graph.outputs.get(name)!]))
  for (const ref of outputs.values()) want(ref, band.top, band.top + band.rows)

  const chosen: { step: Step; ports: string[]; band: Band }[] = []
  for (let i = graph.steps.length - 1; i >= 0; i--) {
    const step = graph.steps[i]!
    const need = wanted.get(step)
    if (!need) continue
    const ports = [...need.ports]
    const rows = need.to - need.from
    const own = rows >= height ? whole : { top: need.from, rows }
    chosen.push({ step, ports, band: own })
    if (request.has?.(step, ports)) continue
    const reach = step.node.reach(step.params as never, { width, height, metres })
    for (const ref of Object.values(step.inputs)) {
      if (!ref) continue
      if (reach === 'whole' || step.uniform) want(ref, 0, height)
      else {
        const margin = reach === 'point' ? 0 : reach
        want(ref, own.top - margin, own.top + own.rows + margin)
      }
    }
  }
  chosen.reverse()

  const lastUse = new Map<Step, number>()
  chosen.forEach(({ step }, index) => {
    for (const ref of Object.values(step.inputs)) if (ref) lastUse.set(ref.step, index)
  })
  for (const ref of outputs.values()) lastUse.set(ref.step, chosen.length)
  const steps = chosen.map((one) => ({ ...one, lastUse: lastUse.get(one.step) ?? chosen.length }))
  const cost = steps.reduce((sum, { step, band: own }) => sum + costOf(step) * width * own.rows, 0)
  return {
    width,
    height,
    band,
    steps,
    outputs,
    peakBytes: forecastPeak(steps, width, height, band.rows < height),
    cost,
  }
}

/** Bytes of the outputs of a planned step that somebody reads. */
export function stepBytes({ step, ports, band }: Omit<PlannedStep, 'lastUse'>, width: number): number {
  const rows = step.uniform ? 1 : band.rows
  return ports.reduce((sum, port) => sum + fieldBytes(step.outputs[port] as PortType, width, rows), 0)
}

/** In bands, whole fields stay for the bands to come. */
function forecastPeak(steps: readonly PlannedStep[], width: number, height: number, banded: boolean): number {
  let held = 0
  let peak = 0
  steps.forEach((planned, index) => {
    held += stepBytes(planned, width)
    const scratch =
      (planned.step.node.scratchPlanes?.(planned.step.params as never) ?? 0) * width * planned.band.rows * 4
    peak = Math.max(peak, held + scratch)
    for (const earlier of steps) {
      const kept = banded && earlier.band.rows === height && !earlier.step.uniform
      if (earlier.lastUse === index && !kept) held -= stepBytes(earlier, width)
    }
  })
  return peak
}
