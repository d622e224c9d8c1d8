import type { Output } from '../document/address'
import { formatOutput, parseOutput } from '../document/address'

/** What can be looked at unlit: an output of the material, or a file of a packing, whole or one of its slots (R is 0). */
export type StageOutput =
  | Output
  | { readonly kind: 'file'; readonly map: string }
  | { readonly kind: 'slot'; readonly map: string; readonly slot: number }

export type FileOutput = Exclude<StageOutput, Output>

export const isFileOutput = (output: StageOutput | null): output is FileOutput =>
  output !== null && (output.kind === 'file' || output.kind === 'slot')

/** Equal outputs have equal texts. A map's name may hold anything, so it comes last. */
export function formatStageOutput(output: StageOutput): string {
  if (output.kind === 'file') return `file:${output.map}`
  return output.kind === 'slot' ? `slot:${output.slot}:${output.map}` : formatOutput(output)
}

/** Reads what formatStageOutput writes. Throws reference-unknown. */
export function parseStageOutput(text: string): StageOutput {
  const [, kind, slot, map] = /^(?:(file)|slot:([0-3])):(.+)$/s.exec(text) ?? []
  if (map === undefined) return parseOutput(text)
  return kind === 'file' ? { kind, map } : { kind: 'slot', map, slot: Number(slot) }
}

export const sameOutput = (a: StageOutput | null, b: StageOutput | null): boolean =>
  a === b || (a !== null && b !== null && formatStageOutput(a) === formatStageOutput(b))
