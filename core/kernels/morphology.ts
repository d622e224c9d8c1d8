import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import type { Rows } from './rows'

export type Footprint = 'round' | 'square'

/** Half the width of a footprint of whole radius at each distance from its middle row. */
const spans = (radius: number, shape: Footprint): number[] =>
  Array.from({ length: 2 * radius + 1 }, (_, k) => {
    const dy = k - radius
    return shape === 'square' ? radius : Math.floor(Math.sqrt(radius * radius - dy * dy))
  })

/** Rows above and below that are read. `radius` in texels. */
export const growReach = (radius: number): number => Math.floor(radius) + 1

/**
 * The largest value within a radius, wrapping; with `sign` −1 the smallest.
 * Between two whole radii both are mixed by what is left, so that a radius moves smoothly.
 * Shape: the field must hold growReach rows above and below. Units: `radius` in texels.
 * Source: grey dilation with a flat footprint, J. Serra 1982; row maxima by M. van Herk, "A Fast Algorithm for Local
 * Minimum and Maximum Filters", 1992: three comparisons a texel and row whatever the radius.
 */
export function growField(source: Field, out: Field, rows: Rows, radius: number, shape: Footprint, sign: 1 | -1): void {
  const { width } = source
  const whole = Math.floor(radius)
  const rest = Math.fround(radius - whole)
  const inner = rowMaxima(width)
  const from = new Float32Array(width)
  const best = new Float32Array(width)
  const wider = new Float32Array(width)
  for (let p = 0; p < out.planes.length; p++) {
    const plane = source.planes[p]!
    const target = out.planes[p]!
    const largest = (y: number, r: number, into: Float32Array): void => {
      into.fill(-Infinity)
      spans(r, shape).forEach((half, k) => {
        const start = rowStart(source, y + k - r)
        for (let x = 0; x < width; x++) from[x] = sign * plane[start + x]!
        inner(from, half, into)
      })
    }
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const start = rowStart(out, y)
      largest(y, whole, best)
      if (rest > 0) {
        largest(y, whole + 1, wider)
        for (let x = 0; x < width; x++) best[x] = best[x]! + (wider[x]! - best[x]!) * rest
      }
      for (let x = 0; x < width; x++) target[start + x] = sign * best[x]! + 0
    }
  }
}

/** into[x] = max(into[x], largest of row[x − half … x + half]), wrapping. */
function rowMaxima(width: number): (row: Float32Array, half: number, into: Float32Array) => void {
  let ahead = new Float32Array(0)
  let back = new Float32Array(0)
  return (row, half, into) => {
    if (2 * half + 1 >= width) {
      let most = -Infinity
      for (let x = 0; x < width; x++) if (row[x]! > most) most = row[x]!
      for (let x = 0; x < width; x++) if (most > into[x]!) into[x] = most
      return
    }
    const window = 2 * half + 1
    const length = width + 2 * half
    if (ahead.length < length) {
      ahead = new Float32Array(2 * width)
      back = new Float32Array(2 * width)
    }
    let column = width - half === width ? 0 : width - half
    for (let i = 0, k = 0; i < length; i++) {
      const v = row[column]!
      ahead[i] = k === 0 || v > ahead[i - 1]! ? v : ahead[i - 1]!
      back[i] = v
      if (++k === window) k = 0
      if (++column === width) column = 0
    }
    for (let i = length - 2; i >= 0; i--) if ((i + 1) % window !== 0 && back[i + 1]! > back[i]!) back[i] = back[i + 1]!
    for (let x = 0; x < width; x++) {
      const a = ahead[x + 2 * half]!
      const b = back[x]!
      const most = a > b ? a : b
      if (most > into[x]!) into[x] = most
    }
  }
}
