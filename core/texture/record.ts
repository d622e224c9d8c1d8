import { sharpening } from '../document/sharpening'
import type { SlotRange } from './pack-rows'
import type { Slot } from './packing'
import { z } from 'zod'
import { pickedIds } from '../picked-ids'
import { GristError } from '../errors'
import { BLOCK_KINDS } from '../kernels/blocks/blocks'
import { BLOCK_QUALITIES } from '../kernels/blocks/blocks'
import { explainIssue } from '../document/document'

const hash = z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hex')

const recordFile = z.strictObject({
  name: z.string().max(300),
  map: z.string(),
  format: z.string(),
  bits: z.number(),
  transfer: z.enum(['srgb', 'raw']),
  /** How each slot is to be read. */
  slots: z.array(
    z.strictObject({
      channel: z.string().nullable(),
      component: z.number(),
      inverted: z.boolean(),
      constant: z.number().nullable(),
      min: z.number(),
      max: z.number(),
    }),
  ),
  bytes: z.number(),
  sha256: hash,
  /**
   * What is promised: SHA-256 of the SHA-256s of all rows, from the top, each over its values as a reader finds them, slots
   * interleaved, little-endian, in the file's width (of a lossy file: as they went in). Absent in records before it was told.
   */
  texels: hash.optional(),
  /** Blocks that it is compressed in, how hard they were looked for, and whether it holds its mips. */
  block: z.enum(BLOCK_KINDS).optional(),
  quality: z.enum(BLOCK_QUALITIES).optional(),
  mips: z.boolean().optional(),
  /** What it comes from: files with equal keys hold the same (kept-file.ts). Absent in records before it was told. */
  key: hash.optional(),
})

/** What file names hold beyond material and size. */
export const recordNames = z.strictObject({ project: z.string().max(200), delivery: z.int().min(1) }).partial()

const record = z.strictObject({
  format: z.literal('amber-grist/record'),
  version: z.literal(1),
  application: z.string(),
  document: z.record(z.string(), z.unknown()),
  documentSha256: hash,
  packing: z.record(z.string(), z.unknown()),
  width: z.int().min(1),
  height: z.int().min(1),
  dither: z.boolean(),
  /** How much channels were sharpened; a number is of base colour. */
  sharpen: sharpening.default(0),
  /** What its file names hold beyond material and size. */
  names: recordNames.default({}),
  normalY: z.string(),
  heightMetres: z.number(),
  /** Content keys of the channels evaluated, at this size. */
  keys: z.record(z.string(), z.string()),
  assets: z.record(z.string(), hash),
  /**
   * The materials that share the files, later ones over earlier, where one does not have all of them: the part that each lies on, its document there,
   * and the IDs of the part that it has.
   */
  joint: z
    .array(
      z.strictObject({
        part: z.string().max(200),
        ids: pickedIds.optional(),
        document: z.record(z.string(), z.unknown()),
      }),
    )
    .min(1)
    .max(255)
    .optional(),
  files: z.array(recordFile),
})

/** What was delivered and how to make it again, texel by texel. */
export type DeliveryRecord = z.output<typeof record>
export type RecordNames = z.output<typeof recordNames>
export type RecordFile = z.output<typeof recordFile>

/** Whether two files hold the same: by their texels where both tell them, else byte for byte. */
export const isSameFile = (
  a: Pick<RecordFile, 'sha256' | 'texels'>,
  b: Pick<RecordFile, 'sha256' | 'texels'> | undefined | null,
): boolean => !!b && (a.texels && b.texels ? a.texels === b.texels : a.sha256 === b.sha256)

/** Reads a record. Throws record-invalid, naming the member. */
export function parseRecord(json: unknown): DeliveryRecord {
  const result = record.safeParse(json)
  if (!result.success) throw new GristError('record-invalid', explainIssue(result.error.issues[0]!, json))
  return result.data
}

/** Slots as a record tells them, with the values they took. */
export const recordSlots = (slots: readonly Slot[], ranges: readonly SlotRange[]): RecordFile['slots'] =>
  slots.map((slot, i) => ({
    channel: 'channel' in slot ? slot.channel : null,
    component: 'channel' in slot ? slot.component : 0,
    inverted: 'channel' in slot && slot.invert,
    constant: 'constant' in slot ? slot.constant : null,
    ...ranges[i]!,
  }))
