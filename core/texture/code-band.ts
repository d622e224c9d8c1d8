import type { Allocate, Field } from '../field/field'
import type { Channel } from '../document/channels'
import { hashDigest } from '../hash'
import { halvesOf } from './bytes/half'
import { littleEndian } from './bytes/npy'
import { ditherRow, quantise } from './bytes/quantise'
import type { CodedRows, FileRows, FileShape, FormatHost } from './file-format'
import { writtenFormat } from './format-registry'
import type { Simd } from '../kernels/simd'
import { simd } from '../kernels/simd'
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
  /** What it took on its thread. */
  readonly milliseconds: number
}

/** Does band tasks, here or on other threads. */
export interface BandCoders {
  readonly threads: number
  code(task: BandTask): Promise<CodedBand>
  /** Memory that the threads read fields from; absent where any will do. */
  readonly allocate?: Allocate
  readonly free?: (region: ArrayBufferView) => void
}

/** What coding may use of the platform: its own compressor and hash. */
export interface CodeHost extends FormatHost {
  readonly sha256?: (bytes: Uint8Array) => Uint8Array
}

/** Bytes of a digest. */
export const DIGEST = 32

/** Does a band task now, on this thread. */
export function codeBand({ plan, fields, top, rows, above }: BandTask, host: CodeHost): CodedBand {
  const begun = performance.now()
  const ranges = plan.file.slots.map(() => ({ min: Infinity, max: -Infinity }))
  const values = fileRows(plan, fields, top, rows, ranges)
  const { file, shape } = plan
  const before = above ?? (top > 0 && isHeld(fields, top - 1) ? fileRows(plan, fields, top - 1, 1) : null)
  const coded = writtenFormat(file.format).write.code(values, shape, { top, rows, above: before }, host)
  const digests = digestsOf(values, rows, shape, host)
  return { coded, ranges, digests, milliseconds: performance.now() - begun }
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
  const twin = simd()
  if (twin)
    return twin.scratch(() =>
      rowsBySimd(twin, { file, shape, channels, heightMetres, dither }, fields, top, rows, ranges),
    )
  const values = packRows(file, { channels, fields, top, rows, width, float: depth.float, heightMetres }, ranges)
  if (depth.float) return values
  return quantise(values, { bits: depth.bits === 16 ? 16 : 8, channels: shape.channels, width, top, dither })
}

/** The numbers that rows of a file come near to: before they are rounded and dithered, beyond 0–1 too. */
export function exactRows(plan: FilePlan, fields: ReadonlyMap<string, Field>, top: number, rows: number): Float32Array {
  const { file, shape, channels, heightMetres } = plan
  const ranges = file.slots.map(() => ({ min: 0, max: 0 }))
  const twin = simd()
  if (twin) return twin.scratch(() => rowsBySimd(twin, plan, fields, top, rows, ranges, true)) as Float32Array
  return packRows(
    file,
    { channels, fields, top, rows, width: shape.width, float: shape.depth.float, heightMetres },
    ranges,
  )
}

/** The same by twins (core/kernels/assembly/bytes.ts), row by row; before they are rounded where `isExact`. */
function rowsBySimd(
  twin: Simd,
  { file, shape, channels, heightMetres, dither }: FilePlan,
  fields: ReadonlyMap<string, Field>,
  top: number,
  rows: number,
  ranges: SlotRange[],
  isExact = false,
): FileRows {
  const { assembly } = twin
  const { depth, width } = shape
  const { float } = depth
  const keepsFloats = float || isExact
  const bits = depth.bits === 16 ? 16 : 8
  const count = file.slots.length
  const length = width * count
  const out = keepsFloats
    ? new Float32Array(rows * length)
    : bits === 8
      ? new Uint8Array(rows * length)
      : new Uint16Array(rows * length)
  const [room, values, made, range, thresholds] = [width, width, length, 4, 16].map((size) => twin.take(size)) as [
    number,
    number,
    number,
    number,
    number,
  ]
  const limits = new Float64Array(twin.shared.buffer, range, 2)
  const rounding = new Float64Array(twin.shared.buffer, thresholds, 8)
  const size = keepsFloats ? 4 : bits / 8
  const bytes = new Uint8Array(twin.shared.buffer, made, length * size)
  const target = new Uint8Array(out.buffer)
  const slots = file.slots.map((slot, s) => {
    if ('constant' in slot) return { field: null, constant: slot.constant }
    const { type, isHeight } = channels.get(slot.channel)!
    const field = fields.get(slot.channel)!
    const isNormal = type === 'normal'
    return {
      field,
      plane: field.planes[slot.component]!,
      halved: isNormal && !float,
      metres: float && isHeight ? heightMetres : 0,
      invert: !slot.invert ? 0 : float && isNormal ? 2 : 1,
      encodes: file.transfer === 'srgb' && s < 3 && !float,
    }
  })
  for (let y = 0; y < rows; y++) {
    rounding.set(ditherRow(top + y, dither))
    slots.forEach((slot, s) => {
      const known = ranges[s]!
      limits.set([known.min, known.max])
      if (slot.field === null) {
        twin.floats(room, width).fill(slot.constant)
        assembly.packValues(room, values, width, false, 0, 0, range)
      } else {
        const from = twin.rowsOf(slot.field, slot.plane, top + y, top + y + 1, room)
        if (!slot.encodes) assembly.packValues(from, values, width, slot.halved, slot.metres, slot.invert, range)
        else {
          // Only what goes into the file counts for its range.
          assembly.packValues(from, values, width, slot.halved, slot.metres, 0, range)
          assembly.encodeSrgb(values, room, width)
          limits.set([known.min, known.max])
          assembly.packValues(room, values, width, false, 0, slot.invert, range)
        }
      }
      ;[known.min, known.max] = limits as unknown as [number, number]
      if (keepsFloats) assembly.interleave(values, made + 4 * s, width, count)
      else assembly.steps(values, made + size * s, width, count, bits, thresholds)
    })
    target.set(bytes, y * length * size)
  }
  return out
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
  const bytes = littleEndian(depth.float && depth.bits === 16 ? halvesOf(values as Float32Array) : values)
  const length = bytes.length / rows
  const digests = new Uint8Array(rows * DIGEST)
  for (let y = 0; y < rows; y++) digests.set(sha256(bytes.subarray(y * length, (y + 1) * length)), y * DIGEST)
  return digests
}
