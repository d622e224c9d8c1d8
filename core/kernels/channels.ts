import { LUMINANCE } from '../colour/srgb'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import type { Rows } from './rows'
import { simd } from './simd'

/** What one grey comes to from three values, by the ways there are, in the order of core/kernels/assembly/channels.ts. */
const GREYS = {
  luminance: (r, g, b) => LUMINANCE[0] * r + LUMINANCE[1] * g + LUMINANCE[2] * b,
  maximum: (r, g, b) => Math.max(r, g, b),
  minimum: (r, g, b) => Math.min(r, g, b),
  average: (r, g, b) => (r + g + b) / 3,
  first: (r) => r,
  second: (_, g) => g,
  third: (_, __, b) => b,
  slope: (x, y) => Math.sqrt(x * x + y * y),
} as const satisfies Record<string, (first: number, second: number, third: number) => number>

export type GreyMethod = keyof typeof GREYS
export const GREY_METHODS = Object.keys(GREYS) as GreyMethod[]

/** One grey of three planes. The result is kept finite. Source of luminance: ITU-R BT.709-6, item 3.2. */
export function greyOf(source: Field, out: Field, rows: Rows, method: GreyMethod): void {
  const [r, g, b] = source.planes as [Float32Array, Float32Array, Float32Array]
  const target = out.planes[0]!
  const twin = simd()
  if (twin) {
    const number = GREY_METHODS.indexOf(method)
    const inputs = source.planes.map((plane) => [source, plane] as const)
    return twin.runs(rows, out.width, inputs, [[out, target]], (count, from, [to]) =>
      twin.assembly.greyOf(from[0]!, from[1]!, from[2]!, to!, count, number),
    )
  }
  const of = GREYS[method]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [from, to] = [rowStart(source, y), rowStart(out, y)]
    for (let x = 0; x < out.width; x++)
      target[to + x] = bounded(Math.fround(of(r[from + x]!, g[from + x]!, b[from + x]!)))
  }
}

/** Directions of length 1 from colours: 0 … 1 is −1 … 1; straight up where there is no direction. */
export function directionsOf(source: Field, out: Field, rows: Rows): void {
  const twin = simd()
  if (twin)
    return twin.runs(
      rows,
      out.width,
      source.planes.map((plane) => [source, plane] as const),
      out.planes.map((plane) => [out, plane] as const),
      (count, from, to) => twin.assembly.directionsOf(from[0]!, from[1]!, from[2]!, to[0]!, to[1]!, to[2]!, count),
    )
  const [r, g, b] = source.planes as [Float32Array, Float32Array, Float32Array]
  const [u, v, w] = out.planes as [Float32Array, Float32Array, Float32Array]
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [from, to] = [rowStart(source, y), rowStart(out, y)]
    for (let i = 0; i < out.width; i++) {
      const x = 2 * r[from + i]! - 1
      const y1 = 2 * g[from + i]! - 1
      const z = 2 * b[from + i]! - 1
      const length = Math.sqrt(x * x + y1 * y1 + z * z)
      const some = length > 1e-20
      u[to + i] = bounded(some ? x / length : 0)
      v[to + i] = bounded(some ? y1 / length : 0)
      w[to + i] = bounded(some ? z / length : 1)
    }
  }
}

/** Rows of one field as they are. */
export function copyValues(source: Field, out: Field, rows: Rows): void {
  out.planes.forEach((plane, p) => {
    const values = source.planes[p]!
    for (let y = rows.from; y < rows.to; y++) {
      const from = rowStart(source, y)
      plane.set(values.subarray(from, from + out.width), rowStart(out, y))
    }
  })
}
