import { canonicalJson, hashText } from '../hash'
import type { ByteWriter } from './bytes/byte-writer'
import type { FilePlan } from './code-band'
import type { DeliveryRecord, RecordFile } from './record'

/** Goes up where packing, rounding or coding give other bytes of the same channels. */
const CODING = 1

/** A file of an earlier delivery that may stand in a new one as it is. */
export interface KeptFile {
  readonly file: RecordFile
  /** Hands its bytes over, in order. */
  copy(output: ByteWriter): Promise<void>
}

/** What a map took, and whether it was kept as it was. */
export interface MapTime {
  readonly map: string
  /** Wall time: its own, and its share of what several maps were made from. */
  readonly seconds: number
  readonly kept: boolean
}

/**
 * What a file comes from, as one word: what its channels hold at this size (`contents`, by channel), how they lie in it and how
 * it is written. Files with equal keys hold the same, whatever they are called.
 */
export function fileKey(
  { file, shape, heightMetres, dither }: FilePlan,
  contents: Readonly<Record<string, string>>,
): string {
  const { format, bits, transfer, slots, block, quality, mips, roughens } = file
  const { width, height } = shape
  const channels = slots.map((slot) => ('channel' in slot ? contents[slot.channel] : null))
  // Only float files tell heights in metres.
  const metres = shape.depth.float ? heightMetres : null
  return hashText(
    canonicalJson({
      ...{ coding: CODING, format, bits, transfer, slots, channels, width, height, metres, dither },
      ...(block || mips ? { block, quality, mips, roughens } : {}),
    }),
  )
}

/** Files of earlier deliveries by their keys; those named first count. `copy` reads one out of its delivery. */
export function keptFiles<T>(
  deliveries: readonly { readonly record: Pick<DeliveryRecord, 'files'>; readonly from: T }[],
  copy: (from: T, index: number, output: ByteWriter) => Promise<void>,
): Map<string, KeptFile> {
  const kept = new Map<string, KeptFile>()
  for (const { record, from } of deliveries)
    record.files.forEach((file, index) => {
      if (file.key !== undefined && !kept.has(file.key))
        kept.set(file.key, { file, copy: (output) => copy(from, index, output) })
    })
  return kept
}

/** Milliseconds shared out by weights; evenly where there are none. */
export function sharedOut(milliseconds: number, weights: readonly number[]): number[] {
  const sum = weights.reduce((total, weight) => total + weight, 0)
  return weights.map((weight) => milliseconds * (sum > 0 ? weight / sum : 1 / weights.length))
}
