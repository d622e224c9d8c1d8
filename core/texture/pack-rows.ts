import { encodedTexel } from '../kernels/srgb'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import type { Channel } from '../document/channels'
import type { PackedFile, Slot } from './packing'

/** Least and greatest value a slot took, before it was held to 0–1. */
export interface SlotRange {
  min: number
  max: number
}

/** Which band of rows, and what numbers mean in the file. */
export interface PackContext {
  readonly channels: ReadonlyMap<string, Channel>
  readonly fields: ReadonlyMap<string, Field>
  readonly top: number
  readonly rows: number
  readonly width: number
  /** True for float formats: linear light, height in metres, normals −1…1. */
  readonly float: boolean
  readonly heightMetres: number
}

/**
 * The values of one file for a band of rows.
 * Shape: interleaved slots, row by row. Range: 0–1 for integer files (not clipped here), open for floats.
 * Normals become n·0.5 + 0.5 in integer files; inverting is 1 − v, of a float normal −v.
 */
export function packRows(file: PackedFile, context: PackContext, ranges: SlotRange[]): Float32Array {
  const { width, rows, top } = context
  const count = file.slots.length
  const out = new Float32Array(width * rows * count)
  file.slots.forEach((slot, s) => {
    const map = valueMap(slot, s, file, context)
    const plane = 'channel' in slot ? context.fields.get(slot.channel)!.planes[slot.component] : undefined
    const range = ranges[s]!
    for (let y = 0; y < rows; y++) {
      const start = 'channel' in slot ? rowStart(context.fields.get(slot.channel)!, top + y) : 0
      for (let x = 0; x < width; x++) {
        const v = map(plane ? plane[start + x]! : 0)
        if (v < range.min) range.min = v
        if (v > range.max) range.max = v
        out[(y * width + x) * count + s] = v
      }
    }
  })
  return out
}

/** What happens to one slot's values on their way into the file. */
function valueMap(
  slot: Slot,
  index: number,
  file: PackedFile,
  { channels, float, heightMetres }: PackContext,
): (v: number) => number {
  if ('constant' in slot) return () => slot.constant
  const { type, isHeight } = channels.get(slot.channel)!
  const steps: ((v: number) => number)[] = []
  if (type === 'normal') steps.push(float ? (slot.invert ? (v) => -v : (v) => v) : (v) => v * 0.5 + 0.5)
  if (float && isHeight) steps.push((v) => (v - 0.5) * heightMetres)
  if (file.transfer === 'srgb' && index < 3 && !float) steps.push((v) => encodedTexel(Math.fround(v)))
  if (slot.invert && !(float && type === 'normal')) steps.push((v) => 1 - v)
  return (v) => {
    for (const step of steps) v = step(v)
    return v
  }
}
