import { planeCount } from '../field/field'
import type { PlannedStep } from './planned-step'
import { costOf } from './costs'

/** Steps of a plan, by their places there, that are done together: tile by tile where there are several. */
export type PlannedUnit = readonly number[]

/** What of a plan its units depend on. */
interface Steps {
  readonly steps: readonly PlannedStep[]
  /** By step: whether it is made, not at hand. */
  readonly made: Uint8Array
  /** By step: whether each texel depends on its inputs at that texel alone. */
  readonly point: Uint8Array
  /** Places of the steps that each reads. */
  readonly feeding: (step: number) => readonly number[]
}

/**
 * Cuts a plan into units: steps that follow each other, read other steps and depend on single texels are one, as long as
 * they make the same rows; of one value everywhere are all together, at the start; each other step is a unit of its own.
 */
export function unitsOf({ steps, made, point, feeding }: Steps): PlannedUnit[] {
  const uniform: number[] = []
  const units: number[][] = []
  let open: number[] | null = null
  for (let at = 0; at < steps.length; at++) {
    if (!made[at]) continue
    const planned = steps[at]!
    const { step, sliceable } = planned
    if (step.uniform) {
      uniform.push(at)
      continue
    }
    const joins = point[at] && sliceable && !step.node.prepare && feeding(at).length > 0
    if (joins && open && sameRows(steps[open[0]!]!, planned)) open.push(at)
    else {
      units.push([at])
      open = joins ? units.at(-1)! : null
    }
  }
  return uniform.length > 0 ? [uniform, ...units] : units
}

const sameRows = (a: PlannedStep, b: PlannedStep): boolean =>
  a.from === b.from && a.band.top + a.band.rows === b.band.top + b.band.rows

/**
 * Which steps are needed within their unit only, so that their rows live for a tile: those that nothing else reads, and
 * that take at most `keepAbove` nanoseconds a texel to make again from what is kept.
 */
export function localSteps(
  { steps, made, feeding }: Steps,
  units: readonly PlannedUnit[],
  outputs: Iterable<number>,
  keepAbove: number,
): Uint8Array {
  const unitOf = new Int32Array(steps.length).fill(-1)
  units.forEach((unit, number) => unit.forEach((at) => (unitOf[at] = number)))
  const local = new Uint8Array(steps.length)
  for (const unit of units)
    if (unit.length > 1)
      for (const at of unit) {
        const { step, band, from } = steps[at]!
        local[at] = !step.uniform && from === band.top && !Object.values(step.outputs).includes('id') ? 1 : 0
      }
  for (let at = 0; at < steps.length; at++)
    if (made[at]) for (const from of feeding(at)) if (unitOf[from] !== unitOf[at]) local[from] = 0
  for (const at of outputs) local[at] = 0
  const cost = new Float64Array(steps.length)
  for (const unit of units)
    for (const at of unit) {
      cost[at] = costOf(steps[at]!.step)
      for (const from of feeding(at)) if (local[from]) cost[at]! += cost[from]!
      if (cost[at]! > keepAbove) local[at] = 0
    }
  return local
}

/** Planes for the local results of one unit, each used again once its last reader is done. */
export class LocalPlanes {
  private readonly spare: number[] = []
  count = 0

  take(type: Parameters<typeof planeCount>[0]): number[] {
    return Array.from({ length: planeCount(type) }, () => this.spare.pop() ?? this.count++)
  }

  give(planes: readonly number[]): void {
    this.spare.push(...planes)
  }
}
