import type { OutputOptions } from '../compose/outputs'
import type { Output } from '../document/address'
import type { MaterialDocument } from '../document/document'
import type { PickedIds } from '../picked-ids'
import type { BandSink, EvaluateRequest, EvaluationReport } from '../engine/evaluate'
import type { Allocate, Field } from '../field/field'

/** Which texels of a file set a material has: those of a part, or of some IDs of it. */
export interface JointMember {
  readonly part: string
  readonly ids?: PickedIds
}

/** Where the channels of a delivery come from. */
export interface ChannelSource {
  readonly document: MaterialDocument
  /** The materials that share the files, each with its document, where one does not have all of them. */
  readonly joint?: readonly (JointMember & { readonly document: MaterialDocument })[]
  sizeAt(width: number): { width: number; height: number }
  evaluateBands(request: ChannelRequest, output: BandSink): Promise<EvaluationReport>
  contentKeys(request: ChannelRequest): Record<string, string>
  workOf(request: ChannelRequest): Record<string, number>
}

export type ChannelRequest = Omit<EvaluateRequest, 'graph' | 'outputs'> & {
  readonly outputs: readonly Output[]
  readonly options?: OutputOptions
  /** Where fields lie that are put together of others, so that whoever codes them can read them; anywhere where none is told. */
  readonly memory?: FieldRoom
}

/** Memory for fields, and what gives it back. */
export interface FieldRoom {
  readonly allocate: Allocate
  readonly free: (region: ArrayBufferView) => void
}

/** Whether a source is one material, that can go over to another document. */
export const isOpened = (source: ChannelSource): source is OpenedMaterial => 'update' in source

/** An open material (core/material/session.ts), which can go over to another document. */
export interface OpenedMaterial extends ChannelSource {
  update(document: MaterialDocument): void
  evaluate(request: ChannelRequest): Promise<{ fields: ReadonlyMap<string, Field>; report: EvaluationReport }>
}
