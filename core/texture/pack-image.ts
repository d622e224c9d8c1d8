import { depthOf, writtenFormat } from './format-registry'
import type { FormatHost } from './file-format'
import type { RasterImage } from '../field/pyramid'
import { fileRows } from './code-band'
import { fromHalf, toHalf } from './bytes/half'
import type { PackContext } from './pack-rows'
import type { PackedFile } from './packing'
import { mayDither } from './packing'
import type { RecordFile } from './record'
import { recordSlots } from './record'

/** A file as it would be written and read back, without its bytes. */
export interface PackedImage {
  readonly record: Pick<RecordFile, 'name' | 'map' | 'format' | 'bits' | 'transfer' | 'slots' | 'block' | 'quality'>
  readonly image: RasterImage
}

/** Whole channels of one size, and what is done to them. */
export interface PackWhole extends Omit<PackContext, 'top' | 'rows' | 'float'> {
  readonly height: number
  readonly dither: boolean
  readonly host: FormatHost
}

/** What a reader of the file finds in it: values rounded to its steps, dithered and damaged as the format does. */
export async function packedImage(file: PackedFile, name: string, whole: PackWhole): Promise<PackedImage> {
  const { width, height, channels: known, heightMetres, fields } = whole
  const channels = file.slots.length as 1 | 3 | 4
  const { map, bits, transfer } = file
  const format = writtenFormat(file.format)
  const depth = depthOf(format, bits)!
  const { block, quality } = file
  const shape = { width, height, channels, depth, srgb: transfer === 'srgb', block, quality }
  const dither = whole.dither && mayDither(file)
  const ranges = file.slots.map(() => ({ min: Infinity, max: -Infinity }))
  let rows = fileRows({ file, shape, channels: known, heightMetres, dither }, fields, 0, height, ranges)
  const { float } = depth
  const record = {
    name,
    map,
    format: file.format,
    bits,
    transfer: float ? ('raw' as const) : transfer,
    slots: recordSlots(file.slots, ranges),
    ...(block ? { block } : {}),
    ...(quality ? { quality } : {}),
  }
  const size = { width, height, channels, bits, float }
  if (rows instanceof Float32Array) {
    if (bits === 16) for (let i = 0; i < rows.length; i++) rows[i] = fromHalf(toHalf(rows[i]!))
    return { record, image: { ...size, values: rows } }
  }
  const { readBack } = format.write
  if (readBack) rows = await readBack(rows as Uint8Array, shape, whole.host)
  const maxValue = bits === 8 ? 255 : 65535
  const values = new Float32Array(rows.length)
  for (let i = 0; i < values.length; i++) values[i] = rows[i]! / maxValue
  return { record, image: { ...size, values } }
}
