import type { Field, PortType } from '../field/field'
import { rowStart } from '../field/field'
import type { Simd } from '../kernels/simd'
import { simd } from '../kernels/simd'
import { ownTexelsOf } from './own-texels'

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

/** A histogram with how far values lie from their mean, of a whole field, a part's own texels, or what a mask covers of those. */
export interface Spread extends Histogram {
  readonly planes: readonly (Histogram['planes'][number] & { readonly deviation: number })[]
  /** Share of the texels that it is about, of all or of the part's own, 0–1. */
  readonly covered: number
}

/**
 * The histogram of a field's values, each texel counting as far as `mask` covers it (held to 0–1); null is everywhere. Of a field on a
 * part only its own texels count (ownTexelsOf). The deviation is the root of the mean square of distances from the mean. Counts have none.
 */
export function spreadOf(field: Field, mask: Field | null, bins = 64, nearest: Int32Array | null = null): Spread {
  const whole = histogramOf(field, bins)
  const weightAt = (x: number, y: number): number =>
    mask ? Math.min(1, Math.max(0, mask.planes[0]![rowStart(mask, y) + x]!)) : 1
  // Of one number for the whole field it is the mask's texels that tell what it covers.
  const own = ownTexelsOf(field.stride === 0 && mask ? mask : field, nearest)
  const rows = mask || field.stride !== 0 ? field.height : 1
  let covered = 0
  const planes = field.planes.map((plane, p) => {
    const found = new Float64Array(bins)
    let [all, total, sum, squares, min, max] = [0, 0, 0, 0, Infinity, -Infinity]
    // From the mean of all, so that what is left after the squares is no rounding.
    const middle = whole.planes[p]!.mean
    for (let y = 0; y < rows; y++) {
      const start = rowStart(field, y)
      for (let x = 0; x < field.width; x++) {
        if (own && own[y * field.width + x] !== y * field.width + x) continue
        all++
        const weight = weightAt(x, y)
        if (weight === 0) continue
        const v = plane[start + x]!
        total += weight
        sum += weight * (v - middle)
        squares += weight * (v - middle) * (v - middle)
        if (v < min) min = v
        if (v > max) max = v
        const at = Math.floor(((v - whole.from) / (whole.to - whole.from)) * bins)
        const bin = at >= bins ? bins - 1 : at > 0 ? at : 0
        found[bin] = found[bin]! + weight
      }
    }
    covered = all > 0 ? total / all : 0
    if (total === 0) return { bins: Array.from(found), mean: 0, min: 0, max: 0, deviation: 0 }
    const off = sum / total
    return {
      bins: Array.from(found, (n) => n / total),
      mean: middle + off,
      min,
      max,
      deviation: Math.sqrt(Math.max(0, squares / total - off * off)),
    }
  })
  return { ...whole, planes, covered }
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
