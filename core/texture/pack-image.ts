import { depthOf, writtenFormat } from './format-registry'
import type { FormatHost } from './file-format'
import type { RasterImage } from '../field/pyramid'
import { fromHalf, toHalf } from './bytes/half'
import { quantise } from './bytes/quantise'
import type { PackContext } from './pack-rows'
import { packRows } from './pack-rows'
import type { PackedFile } from './packing'
import { mayDither } from './packing'
import type { RecordFile } from './record'
import { recordSlots } from './record'

/** A file as it would be written and read back, without its bytes. */
export interface PackedImage {
  readonly record: Pick<RecordFile, 'name' | 'map' | 'format' | 'bits' | 'transfer' | 'slots'>
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
  const { width, height } = whole
  const channels = file.slots.length as 1 | 3 | 4
  const format = writtenFormat(file.format)
  const depth = depthOf(format, file.bits)!
  const { float } = depth
  const ranges = file.slots.map(() => ({ min: Infinity, max: -Infinity }))
  const packed = packRows(file, { ...whole, top: 0, rows: height, float }, ranges)
  const { map, bits } = file
  const record = {
    name,
    map,
    format: file.format,
    bits,
    transfer: float ? ('raw' as const) : file.transfer,
    slots: recordSlots(file.slots, ranges),
  }
  const shape = { width, height, channels, bits, float }
  if (float) {
    if (bits === 16) for (let i = 0; i < packed.length; i++) packed[i] = fromHalf(toHalf(packed[i]!))
    return { record, image: { ...shape, values: packed } }
  }
  const maxValue = bits === 8 ? 255 : 65535
  const dither = whole.dither && mayDither(file, whole.channels)
  let steps = quantise(packed, { bits: bits === 8 ? 8 : 16, channels, width, top: 0, dither })
  const { readBack } = format.write
  const srgb = file.transfer === 'srgb'
  if (readBack) steps = await readBack(steps as Uint8Array, { width, height, channels, depth, srgb }, whole.host)
  const values = Float32Array.from(steps, (v) => v / maxValue)
  return { record, image: { ...shape, values } }
}
