import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd } from './simd'

export type Footprint = 'round' | 'square'

/** Half the width of a footprint of whole radius at each distance from its middle row. */
const spans = (radius: number, shape: Footprint): number[] =>
  Array.from({ length: 2 * radius + 1 }, (_, k) => {
    const dy = k - radius
    return shape === 'square' ? radius : Math.floor(Math.sqrt(radius * radius - dy * dy))
  })

/** Rows above and below that are read. `radius` in texels. */
export const growFootprint = (radius: number): number => Math.floor(radius) + 1

/**
 * The largest value within a radius, wrapping; with `sign` −1 the smallest.
 * Between two whole radii both are mixed by what is left, so that a radius moves smoothly.
 * Shape: the field must hold growFootprint rows above and below. Units: `radius` in texels.
 * Source: grey dilation with a flat footprint, J. Serra 1982. Each row is kept with its maxima over windows of 1, 2, 4 …
 * texels, so that any window is the larger of two: two comparisons a texel and row of the footprint. (Rejected: M. van
 * Herk's running maxima, 1992, which want a pass over each row for every width; four times slower here.)
 */
export function growField(source: Field, out: Field, rows: Rows, radius: number, shape: Footprint, sign: 1 | -1): void {
  const { width } = source
  const twin = width % 4 === 0 ? simd() : null
  if (twin) return growBySimd(twin, source, out, rows, radius, shape, sign)
  const whole = Math.floor(radius)
  const rest = Math.fround(radius - whole)
  const inner = spans(whole, shape)
  const outer = rest > 0 ? spans(whole + 1, shape) : []
  const reach = rest > 0 ? whole + 1 : whole
  const best = new Float32Array(width)
  const wider = new Float32Array(width)
  for (let p = 0; p < out.planes.length; p++) {
    const tables = rowTables(source, source.planes[p]!, sign, reach)
    const target = out.planes[p]!
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      best.fill(-Infinity)
      wider.fill(-Infinity)
      for (let dy = -reach; dy <= reach; dy++) {
        const table = tables(y + dy)
        const narrow = inner[dy + whole]
        if (narrow !== undefined) widen(table, narrow, width, best)
        if (rest > 0) widen(table, outer[dy + reach]!, width, wider)
      }
      const start = rowStart(out, y)
      for (let x = 0; x < width; x++) {
        const v = rest > 0 ? best[x]! + (wider[x]! - best[x]!) * rest : best[x]!
        target[start + x] = sign * v + 0
      }
    }
  }
}

/** A row with its maxima: level k holds, at x, the largest of the 2ᵏ texels from x − reach on. */
interface RowTable {
  readonly levels: readonly Float32Array[]
  readonly reach: number
}

/** Tables of the rows around, each made once while it is needed. */
function rowTables(source: Field, plane: Float32Array, sign: 1 | -1, reach: number): (y: number) => RowTable {
  const { width } = source
  // A window wider than the row is the row; wrapping more than once says nothing new.
  const half = Math.min(reach, width >> 1)
  const length = width + 2 * half
  const count = 2 * reach + 1
  const tables = Array.from({ length: count }, () => ({ y: NaN, table: emptyTable(length, half) }))
  return (y) => {
    const slot = tables[((y % count) + count) % count]!
    if (slot.y === y) return slot.table
    slot.y = y
    const start = rowStart(source, y)
    const [base] = slot.table.levels as [Float32Array]
    for (let i = 0, x = (width - half) % width; i < length; i++) {
      base[i] = sign * plane[start + x]!
      if (++x === width) x = 0
    }
    for (let k = 1; k < slot.table.levels.length; k++) {
      const from = slot.table.levels[k - 1]!
      const to = slot.table.levels[k]!
      const step = 1 << (k - 1)
      for (let i = 0; i + 2 * step <= length; i++) {
        const a = from[i]!
        const b = from[i + step]!
        to[i] = a > b ? a : b
      }
    }
    return slot.table
  }
}

function emptyTable(length: number, reach: number): RowTable {
  const levels = [new Float32Array(length)]
  while (1 << levels.length <= 2 * reach + 1) levels.push(new Float32Array(length))
  return { levels, reach }
}

/** into[x] = max(into[x], largest within `half` of x). */
function widen({ levels, reach }: RowTable, half: number, width: number, into: Float32Array): void {
  const side = Math.min(half, reach)
  const window = 2 * side + 1
  const k = 31 - Math.clz32(window)
  const table = levels[k]!
  const first = reach - side
  const second = first + window - (1 << k)
  for (let x = 0; x < width; x++) {
    const a = table[first + x]!
    const b = table[second + x]!
    const max = a > b ? a : b
    if (max > into[x]!) into[x] = max
  }
}

/** Rows of results that are made together: each row around them is looked at once for all. */
const TOGETHER = 64

function growBySimd(
  twin: Simd,
  source: Field,
  out: Field,
  rows: Rows,
  radius: number,
  shape: Footprint,
  sign: 1 | -1,
): void {
  const { width } = source
  const bytes = width * 4
  const whole = Math.floor(radius)
  const rest = Math.fround(radius - whole)
  const reach = rest > 0 ? whole + 1 : whole
  const footprints = rest > 0 ? [spans(whole, shape), spans(reach, shape)] : [spans(whole, shape)]
  const side = Math.min(reach, width >> 1)
  const levels = 32 - Math.clz32(2 * side + 1)
  // Whole vectors are read beyond a row's end, by up to the greatest step.
  const length = Math.ceil((width + 2 * side) / 4) * 4
  const stride = (length + (1 << levels) + 4) * 4
  twin.scratch(() => {
    const table = twin.take((stride / 4) * levels)
    const halves = twin.take(TOGETHER)
    const best = footprints.map(() => twin.take(TOGETHER * width))
    const room = twin.take(TOGETHER * width)
    const { assembly } = twin
    const base = twin.floats(table, length)
    for (let y = rows.from; y < rows.to; y += TOGETHER) {
      const to = Math.min(rows.to, y + TOGETHER)
      const count = to - y
      out.planes.forEach((target, p) => {
        const plane = source.planes[p]!
        for (const at of best) twin.floats(at, count * width).fill(-Infinity)
        for (let near = y - reach; near < to + reach; near++) {
          rows.check()
          const start = rowStart(source, near)
          base.set(plane.subarray(start, start + width), side)
          base.copyWithin(0, width, width + side)
          base.copyWithin(width + side, side, 2 * side)
          if (sign < 0) for (let i = 0; i < width + 2 * side; i++) base[i] = -base[i]!
          assembly.windowTables(table, stride, levels, length * 4)
          footprints.forEach((half, i) => {
            const own = twin.ints(halves, count)
            const middle = (half.length - 1) / 2
            for (let row = 0; row < count; row++) own[row] = half[near - (y + row) + middle] ?? -1
            assembly.widenRows(table, stride, side * 4, halves, side, best[i]!, count, bytes)
          })
        }
        const at = twin.target(out, target, y, to, room)
        if (rest > 0) assembly.mixedExtremes(best[0]!, best[1]!, rest, sign, at, count * bytes)
        else assembly.signedValues(best[0]!, sign, at, count * bytes)
        twin.written(at, out, target, y, to, room)
      })
    }
  })
}
