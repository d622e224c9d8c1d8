import type { Field } from '../field/field'
import type { Channel } from '../document/channels'
import { hashDigest } from '../hash'
import { toHalf } from './bytes/half'
import { littleEndian } from './bytes/npy'
import { quantise } from './bytes/quantise'
import type { CodedRows, FileRows, FileShape, FormatHost } from './file-format'
import { writtenFormat } from './format-registry'
import type { SlotRange } from './pack-rows'
import { packRows } from './pack-rows'
import type { PackedFile } from './packing'

/** What is known of a file before its rows are. */
export interface FilePlan {
  readonly file: PackedFile
  readonly shape: FileShape
  readonly channels: ReadonlyMap<string, Channel>
  readonly heightMetres: number
  readonly dither: boolean
}

/** Rows of channels to be packed, rounded and coded for one file, on any thread. */
export interface BandTask {
  readonly plan: FilePlan
  readonly fields: ReadonlyMap<string, Field>
  readonly top: number
  readonly rows: number
  /** The file's row above, where the fields do not hold it. */
  readonly above: FileRows | null
}

/** What became of them: plain data. */
export interface CodedBand {
  readonly coded: CodedRows
  /** Least and greatest value of each slot. */
  readonly ranges: readonly SlotRange[]
  /** SHA-256 of each row's values, one after the other (RecordFile.texels). */
  readonly digests: Uint8Array
}

/** Does band tasks, here or on other threads. */
export interface BandCoders {
  readonly threads: number
  code(task: BandTask): Promise<CodedBand>
}

/** What coding may use of the platform: its own compressor and hash. */
export interface CodeHost extends FormatHost {
  readonly sha256?: (bytes: Uint8Array) => Uint8Array
}

/** Bytes of a digest. */
export const DIGEST = 32

/** Does a band task now, on this thread. */
export function codeBand({ plan, fields, top, rows, above }: BandTask, host: CodeHost): CodedBand {
  const ranges = plan.file.slots.map(() => ({ min: Infinity, max: -Infinity }))
  const values = fileRows(plan, fields, top, rows, ranges)
  const { file, shape } = plan
  const before = above ?? (top > 0 && isHeld(fields, top - 1) ? fileRows(plan, fields, top - 1, 1) : null)
  const coded = writtenFormat(file.format).write.code(values, shape, { top, rows, above: before }, host)
  return { coded, ranges, digests: digestsOf(values, rows, shape, host) }
}

/** Rows of a file as they stand in it: whole steps, or floats. */
export function fileRows(
  { file, shape, channels, heightMetres, dither }: FilePlan,
  fields: ReadonlyMap<string, Field>,
  top: number,
  rows: number,
  ranges: SlotRange[] = file.slots.map(() => ({ min: 0, max: 0 })),
): FileRows {
  const { depth, width } = shape
  const values = packRows(file, { channels, fields, top, rows, width, float: depth.float, heightMetres }, ranges)
  if (depth.float) return values
  return quantise(values, { bits: depth.bits === 16 ? 16 : 8, channels: shape.channels, width, top, dither })
}

function isHeld(fields: ReadonlyMap<string, Field>, row: number): boolean {
  for (const field of fields.values())
    if (field.stride !== 0 && field.rows < field.height && row < field.top) return false
  return true
}

function digestsOf(
  values: FileRows,
  rows: number,
  { depth }: FileShape,
  { sha256 = hashDigest }: CodeHost,
): Uint8Array {
  // Half floats are told as a reader finds them.
  const bytes = littleEndian(depth.float && depth.bits === 16 ? Uint16Array.from(values, toHalf) : values)
  const length = bytes.length / rows
  const digests = new Uint8Array(rows * DIGEST)
  for (let y = 0; y < rows; y++) digests.set(sha256(bytes.subarray(y * length, (y + 1) * length)), y * DIGEST)
  return digests
}
