import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { bounded } from '../field/limits'
import type { Rows } from './rows'
import { pieceRows, simd } from './simd'

const f = Math.fround

/**
 * The transfer functions of sRGB in float32 steps, for whole fields. Range: any; negative values mirror, values above 1 go on
 * along the curve. 0 and 1 are exact, both rise everywhere, and a 16-bit code comes back from both. Error: within 5e-7 of the
 * exact curve from 0 to 1, 2e-6 of the value above. Source: IEC 61966-2-1, 5.2; roots and polynomials are an own derivation
 * (least squares, weighted towards the least greatest error; srgb.test.ts).
 */

/** w^0.4 from 0.09 to 1 by t = √w: a polynomial in t − 1, that is t^0.8. */
const DECODE = Float32Array.of(
  1,
  0.799983561038971,
  -0.08065123111009598,
  0.023164808750152588,
  -0.0752120241522789,
  -0.1927693486213684,
  -0.4128063917160034,
  -0.4226851165294647,
  -0.19867056608200073,
)
/** x^(1/24) from 0.003 to 1 by r = x^(1/8): a polynomial in r − 1, that is r^(1/3). */
const ENCODE = Float32Array.of(
  1,
  0.3333384692668915,
  -0.11087749898433685,
  0.06530138850212097,
  -0.015601078048348427,
  0.12508516013622284,
  0.15845569968223572,
  0.17153365910053253,
)
/** 1/1.055 and 0.055, as they give exactly 1 at 1. */
const SLOPE = f(0.9478673338890076)
const OFFSET = f(0.0549999475479126)
const TOE = f(1 / 12.92)
const STEEP = f(12.92)
const SCALE = f(1.055)

/** What brings a value above 1 down: above `above` it is multiplied by `down`, and its power by `up`. */
// Written out: powers of 2 to a fraction are not the same in every engine.
const DECODE_STEPS = [
  { above: 2 ** 30, down: 2 ** -30, up: 2 ** 72 },
  { above: 2 ** 15, down: 2 ** -15, up: 2 ** 36 },
  { above: 2 ** 8, down: 2 ** -7, up: 114104.8046875 },
  { above: 2 ** 4, down: 2 ** -4, up: 776.046875 },
  { above: 2 ** 2, down: 2 ** -2, up: 27.85761833190918 },
  { above: 1, down: 2 ** -2, up: 27.85761833190918 },
]
const ENCODE_STEPS = [
  { above: 2 ** 32, down: 2 ** -32, up: 10321.2734375 },
  { above: 2 ** 16, down: 2 ** -16, up: 101.59366607666016 },
  { above: 2 ** 8, down: 2 ** -8, up: 10.079368591308594 },
  { above: 1, down: 2 ** -8, up: 10.079368591308594 },
]

/** sRGB-encoded to linear. Also core/kernels/assembly/srgb.ts. */
export function decodedTexel(v: number): number {
  const a = v < 0 ? -v : v
  if (a <= f(0.04045)) return f(v * TOE)
  let w = f(f(a + f(0.055)) * SLOPE)
  let scale = 1
  if (w > 1)
    for (const { above, down, up } of DECODE_STEPS)
      if (w > above) {
        w = f(w * down)
        scale = f(scale * up)
      }
  const t = f(Math.sqrt(w))
  const square = f(t * t)
  const y = f(f(f(square * square) * polynomial(DECODE, f(t - 1))) * scale)
  return v < 0 ? -y : y
}

/** Linear to sRGB-encoded. Also core/kernels/assembly/srgb.ts. */
export function encodedTexel(v: number): number {
  let a = v < 0 ? -v : v
  if (a <= f(0.0031308)) return f(v * STEEP)
  let scale = 1
  if (a > 1)
    for (const { above, down, up } of ENCODE_STEPS)
      if (a > above) {
        a = f(a * down)
        scale = f(scale * up)
      }
  const r = f(Math.sqrt(f(Math.sqrt(f(Math.sqrt(a))))))
  const power = f(f(f(r * r) * r) * polynomial(ENCODE, f(r - 1)))
  const y = f(f(SCALE * f(power * scale)) - OFFSET)
  return v < 0 ? -y : y
}

function polynomial(coefficients: Float32Array, u: number): number {
  let q = coefficients[coefficients.length - 1]!
  for (let k = coefficients.length - 2; k >= 0; k--) q = f(f(u * q) + coefficients[k]!)
  return q
}

/** Every value of every plane through one of the two. The result is kept finite. */
export function srgbField(source: Field, out: Field, rows: Rows, kind: 'encode' | 'decode'): void {
  const { width } = out
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const piece = pieceRows(width)
      const [sourceRoom, room] = [twin.take(piece * width), twin.take(piece * width)]
      const convert = kind === 'encode' ? twin.assembly.encodeSrgb : twin.assembly.decodeSrgb
      for (let y = rows.from; y < rows.to; y += piece) {
        rows.check()
        const to = Math.min(rows.to, y + piece)
        out.planes.forEach((plane, p) => {
          const from = twin.rowsOf(source, source.planes[p]!, y, to, sourceRoom)
          const result = twin.target(out, plane, y, to, room)
          convert(from, result, (to - y) * width)
          twin.written(result, out, plane, y, to, room)
        })
      }
    })
  const texel = kind === 'encode' ? encodedTexel : decodedTexel
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const [start, target] = [rowStart(source, y), rowStart(out, y)]
    out.planes.forEach((plane, p) => {
      const values = source.planes[p]!
      for (let x = 0; x < width; x++) plane[target + x] = bounded(texel(values[start + x]!))
    })
  }
}
