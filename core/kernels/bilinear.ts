import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'

const f = Math.fround

/**
 * Reads one plane of a field between texel centres, wrapping. Places in texels, (0, 0) the centre of the first texel.
 * The field must hold the row and the one below it.
 */
export type ReadAt = (x: number, y: number) => number

export function bilinearReader(source: Field, plane: Float32Array): ReadAt {
  const { width, height } = source
  // Row starts are looked up once: a walk reads each row many thousand times.
  const whole = source.rows === height
  const first = whole ? 0 : source.top
  const starts = Int32Array.from({ length: source.rows }, (_, i) => rowStart(source, first + i))
  return (x, y) => {
    const ix = Math.floor(x)
    const iy = Math.floor(y)
    const tx = f(x - ix)
    const ty = f(y - iy)
    let row = iy - first
    let below = row + 1
    if (whole && (row < 0 || below >= height)) {
      row = floorMod(row, height)
      below = row + 1 === height ? 0 : row + 1
    }
    const x0 = ix >= 0 && ix < width ? ix : floorMod(ix, width)
    const x1 = x0 + 1 === width ? 0 : x0 + 1
    const r0 = starts[row]!
    const r1 = starts[below]!
    const a = plane[r0 + x0]!
    const b = plane[r1 + x0]!
    const top = f(a + f(tx * f(plane[r0 + x1]! - a)))
    const low = f(b + f(tx * f(plane[r1 + x1]! - b)))
    return f(top + f(ty * f(low - top)))
  }
}
