import type { Field } from '../field/field'
import { rowStart } from '../field/field'

export type SlopeMethod = 'central' | 'scharr' | 'sobel'

/** Weight of the middle and of each outer row or column; the three add up to ½. */
export const SLOPE_WEIGHTS = {
  central: [0.5, 0],
  scharr: [10 / 32, 3 / 32],
  sobel: [2 / 8, 1 / 8],
} as const satisfies Record<SlopeMethod, readonly [number, number]>

/** Reads the slope of a grey field at a texel: value per texel along u (right) and v (down), into `slope`. */
export type SlopeAt = (x: number, y: number, slope: Float64Array) => void

/**
 * Slopes by differences over neighbours, wrapping. The field must hold one more row on each side.
 * Source: central differences; Scharr's 3×3 weights (3, 10, 3)/32, H. Scharr, "Optimal Operators in Digital Image
 * Processing", Heidelberg 2000; Sobel's (1, 2, 1)/8, I. Sobel, G. Feldman 1968 as in R. Gonzalez, R. Woods,
 * "Digital Image Processing", section 10.2.
 */
export function slopeReader(field: Field, method: SlopeMethod): SlopeAt {
  const plane = field.planes[0]!
  const { width } = field
  const [middle, outer] = SLOPE_WEIGHTS[method]
  let row = NaN
  let above = 0
  let here = 0
  let below = 0
  const toRow = (y: number): void => {
    if (y === row) return
    row = y
    above = rowStart(field, y - 1)
    here = rowStart(field, y)
    below = rowStart(field, y + 1)
  }
  return (x, y, slope) => {
    toRow(y)
    const left = x === 0 ? width - 1 : x - 1
    const right = x === width - 1 ? 0 : x + 1
    const u = plane[here + right]! - plane[here + left]!
    const v = plane[below + x]! - plane[above + x]!
    if (method === 'central') {
      slope[0] = u / 2
      slope[1] = v / 2
      return
    }
    const uAbove = plane[above + right]! - plane[above + left]!
    const uBelow = plane[below + right]! - plane[below + left]!
    const vLeft = plane[below + left]! - plane[above + left]!
    const vRight = plane[below + right]! - plane[above + right]!
    slope[0] = middle * u + outer * (uAbove + uBelow)
    slope[1] = middle * v + outer * (vLeft + vRight)
  }
}
