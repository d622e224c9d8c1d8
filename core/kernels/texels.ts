import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import type { Rows } from './rows'

/** Calls `map` for every texel with its input and output values; both arrays are reused. */
export function mapTexels(
  source: Field,
  out: Field,
  rows: Rows,
  map: (from: Float64Array, to: Float64Array) => void,
): void {
  const from = new Float64Array(source.planes.length)
  const to = new Float64Array(out.planes.length)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const s0 = rowStart(source, y)
    const o0 = rowStart(out, y)
    for (let x = 0; x < out.width; x++) {
      for (let p = 0; p < from.length; p++) from[p] = source.planes[p]![s0 + x]!
      map(from, to)
      for (let p = 0; p < to.length; p++) out.planes[p]![o0 + x] = bounded(to[p]!)
    }
  }
}
