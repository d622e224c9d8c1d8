import type { Field, PortType } from '../field/field'
import { rowStart } from '../field/field'

/** How often values occur. Shape: `bins` ratios for each plane over `from`–`to`, the ends taking what lies beyond. */
export interface Histogram {
  readonly type: PortType
  readonly from: number
  readonly to: number
  readonly planes: readonly { bins: readonly number[]; mean: number; min: number; max: number }[]
}

/** The histogram of a field's values: over 0–1, for directions over −1–1. Counts have none. */
export function histogramOf(field: Field, bins = 64): Histogram {
  const signed = field.type === 'normal' || field.type === 'vector'
  const from = signed ? -1 : 0
  const rows = field.stride === 0 ? 1 : field.height
  const planes = field.planes.map((plane) => {
    const found = new Array<number>(bins).fill(0)
    let min = Infinity
    let max = -Infinity
    let sum = 0
    for (let y = 0; y < rows; y++) {
      const start = rowStart(field, y)
      for (let x = 0; x < field.width; x++) {
        const v = plane[start + x]!
        if (v < min) min = v
        if (v > max) max = v
        sum += v
        const at = Math.floor(((v - from) / (1 - from)) * bins)
        found[at < 0 ? 0 : at >= bins ? bins - 1 : at]!++
      }
    }
    const count = rows * field.width
    return { bins: found.map((n) => n / count), mean: sum / count, min, max }
  })
  return { type: field.type, from, to: 1, planes }
}
