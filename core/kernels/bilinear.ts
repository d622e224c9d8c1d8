import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'

const f = Math.fround

/**
 * Reads all planes of a field between texel centres, wrapping, into `values`. Places in texels, (0, 0) the centre of the
 * first texel. The field must hold the row and the one below it.
 */
export type ReadAt = (x: number, y: number, values: Float64Array) => void

export function bilinearReader(source: Field): ReadAt {
  const { width, planes } = source
  return (x, y, values) => {
    const ix = Math.floor(x)
    const iy = Math.floor(y)
    const tx = f(x - ix)
    const ty = f(y - iy)
    const x0 = floorMod(ix, width)
    const x1 = x0 + 1 === width ? 0 : x0 + 1
    const r0 = rowStart(source, iy)
    const r1 = rowStart(source, iy + 1)
    for (let p = 0; p < planes.length; p++) {
      const plane = planes[p]!
      const a = plane[r0 + x0]!
      const b = plane[r1 + x0]!
      const top = f(a + f(tx * f(plane[r0 + x1]! - a)))
      const low = f(b + f(tx * f(plane[r1 + x1]! - b)))
      values[p] = f(top + f(ty * f(low - top)))
    }
  }
}
