import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import type { Rows } from './rows'

const f = Math.fround

/** out = map(in) for every value of every plane. The result is kept finite. */
export function mapValues(source: Field, out: Field, rows: Rows, map: (value: number, plane: number) => number): void {
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const from = rowStart(source, y)
    const to = rowStart(out, y)
    for (let p = 0; p < out.planes.length; p++) {
      const a = source.planes[p]!
      const b = out.planes[p]!
      for (let x = 0; x < out.width; x++) b[to + x] = bounded(f(map(a[from + x]!, p)))
    }
  }
}

/** 0 below `low`, 1 above `high`, 3t² − 2t³ between; a hard step where they meet (the level itself counts as above). */
export function smoothstep(low: number, high: number, v: number): number {
  if (v >= high) return 1
  if (v <= low) return 0
  const t = f(f(v - low) / f(high - low))
  return f(f(t * t) * f(3 - f(2 * t)))
}

/** How much of a texel lies within an edge `width` wide: ½ at signed distance 0, 1 half the width inside, 0 outside. */
export function coverage(distance: number, width: number): number {
  const fraction = 0.5 + distance / width
  return fraction < 0 ? 0 : fraction > 1 ? 1 : fraction
}

/** Writes one value a plane into every row asked for. */
export function fillValues(out: Field, rows: Rows, values: readonly number[]): void {
  for (let y = rows.from; y < rows.to; y++) {
    const start = rowStart(out, y)
    out.planes.forEach((plane, p) => plane.fill(values[p] ?? values[0]!, start, start + out.width))
  }
}
