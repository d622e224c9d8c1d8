import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import type { Rows } from './rows'

/**
 * Normals of two greys, mid-grey straight up: x = 2a − 1, y = 2b − 1, z = √(1 − x² − y²); what is longer than 1 lies flat, at length 1.
 * Source: two-channel normals as BC5 holds them; common practice.
 */
export function joinNormal(first: Field, second: Field, out: Field, rows: Rows): void {
  const [a, b] = [first.planes[0]!, second.planes[0]!]
  const [nx, ny, nz] = out.planes as [Float32Array, Float32Array, Float32Array]
  for (let row = rows.from; row < rows.to; row++) {
    rows.check()
    const [p, q, to] = [rowStart(first, row), rowStart(second, row), rowStart(out, row)]
    for (let i = 0; i < out.width; i++) {
      const x = 2 * a[p + i]! - 1
      const y = 2 * b[q + i]! - 1
      const square = x * x + y * y
      const length = square > 1 ? Math.sqrt(square) : 1
      nx[to + i] = x / length
      ny[to + i] = y / length
      nz[to + i] = square < 1 ? Math.sqrt(1 - square) : 0
    }
  }
}
