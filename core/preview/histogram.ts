import type { Field, PortType } from '../field/field'
import { rowStart } from '../field/field'
import type { Simd } from '../kernels/simd'
import { simd } from '../kernels/simd'

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
  const count = rows * field.width
  const twin = simd()
  const planes = field.planes.map((plane) => {
    const { found, sum, min, max } = twin
      ? countByTwin(twin, field, plane, rows, from, bins)
      : counted(field, plane, rows, from, bins)
    return { bins: Array.from(found, (n) => n / count), mean: sum / count, min, max }
  })
  return { type: field.type, from, to: 1, planes }
}

interface Counted {
  readonly found: Int32Array
  readonly sum: number
  readonly min: number
  readonly max: number
}

/** Also core/kernels/assembly/display.ts. */
function counted(field: Field, plane: Float32Array, rows: number, from: number, bins: number): Counted {
  const found = new Int32Array(bins)
  let [sum, min, max] = [0, Infinity, -Infinity]
  for (let y = 0; y < rows; y++) {
    const start = rowStart(field, y)
    for (let x = 0; x < field.width; x++) {
      const v = plane[start + x]!
      if (v < min) min = v
      if (v > max) max = v
      sum += v
      const at = Math.floor(((v - from) / (1 - from)) * bins)
      const bin = at >= bins ? bins - 1 : at > 0 ? at : 0
      found[bin] = found[bin]! + 1
    }
  }
  return { found, sum, min, max }
}

function countByTwin(twin: Simd, field: Field, plane: Float32Array, rows: number, from: number, bins: number): Counted {
  return twin.scratch(() => {
    const [room, at, range] = [twin.take(field.width), twin.take(bins), twin.take(6)]
    const found = twin.ints(at, bins)
    found.fill(0)
    const figures = new Float64Array(twin.shared.buffer, range, 3)
    figures.set([0, Infinity, -Infinity])
    for (let y = 0; y < rows; y++)
      twin.assembly.countValues(twin.rowsOf(field, plane, y, y + 1, room), field.width, at, bins, from, range)
    const [sum, min, max] = figures as unknown as [number, number, number]
    return { found: found.slice(), sum, min, max }
  })
}
