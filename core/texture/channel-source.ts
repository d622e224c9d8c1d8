import type { OutputOptions } from '../compose/outputs'
import type { Output } from '../document/address'
import type { MaterialDocument } from '../document/document'
import type { BandSink, EvaluateRequest, EvaluationReport } from '../engine/evaluate'
import type { Field } from '../field/field'

/** Where the channels of a delivery come from. */
export interface ChannelSource {
  readonly document: MaterialDocument
  sizeAt(width: number): { width: number; height: number }
  evaluateBands(request: ChannelRequest, output: BandSink): Promise<EvaluationReport>
  contentKeys(request: ChannelRequest): Record<string, string>
  workOf(request: ChannelRequest): Record<string, number>
}

export type ChannelRequest = Omit<EvaluateRequest, 'graph' | 'outputs'> & {
  readonly outputs: readonly Output[]
  readonly options?: OutputOptions
}

/** An open material (core/material/session.ts), which can go over to another document. */
export interface OpenedMaterial extends ChannelSource {
  update(document: MaterialDocument): void
  evaluate(request: ChannelRequest): Promise<{ fields: ReadonlyMap<string, Field>; report: EvaluationReport }>
}
