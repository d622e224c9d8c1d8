import type { Step } from '../graph/graph'
import { costOf } from './costs'

/** Rows of the whole raster; may begin above row 0 or end below the last, as tiles wrap. */
export interface Band {
  readonly top: number
  readonly rows: number
}

/** A step as it stands when the plan is made; later changes of its parameters don't reach it. */
export interface PlannedStep {
  readonly step: Step
  readonly params: Readonly<Record<string, unknown>>
  /** Identifies what it computes at the plan's size: equal keys, equal bits. */
  readonly key: string
  /** Outputs somebody reads. */
  readonly ports: readonly string[]
  readonly band: Band
  /** The first row that is made; those above were made for the band before. */
  readonly from: number
  /** Whether its rows may be made apart from each other. */
  readonly sliceable: boolean
  /** On a part: how far it reads beyond an island; then it is done island by island too. */
  readonly reach?: number
}

/** Forecast work of a step over its rows, in nanoseconds on the machine the table of costs was measured on. */
export const stepCost = ({ step, band, from }: PlannedStep, width: number): number =>
  costOf(step) * width * (step.uniform ? 1 : band.top + band.rows - from)
