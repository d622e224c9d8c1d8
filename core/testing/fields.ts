import type { Field, PortType } from '../field/field'
import { createField } from '../field/field'
import { hash32, unitFloat } from '../random'

/** A field whose values come from a function of texel and plane. */
export function fieldOf(
  type: Exclude<PortType, 'id'>,
  width: number,
  height: number,
  value: (x: number, y: number, plane: number) => number,
): Field {
  const field = createField(type, width, height)
  field.planes.forEach((plane, p) => {
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) plane[y * width + x] = value(x, y, p)
  })
  return field
}

/** White noise in 0–1, the same every time. */
export const noisyField = (width: number, height: number, seed = 1): Field =>
  fieldOf('grey', width, height, (x, y) => unitFloat(hash32(seed * 1000003 + y * width + x)))

/** The largest difference between two arrays of equal length. */
export function largestDifference(a: ArrayLike<number>, b: ArrayLike<number>): number {
  if (a.length !== b.length) throw new Error(`${a.length} values against ${b.length}`)
  let max = 0
  for (let i = 0; i < a.length; i++) max = Math.max(max, Math.abs(a[i]! - b[i]!))
  return max
}
