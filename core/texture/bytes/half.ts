import { simd } from '../../kernels/simd'

const float = new Float32Array(1)
const bits = new Uint32Array(float.buffer)

/**
 * A number as IEEE 754 binary16, rounded to nearest, ties to even. Beyond ±65504 the largest finite half; NaN is 0.
 * Source: IEEE 754-2019, 3.6 and 4.3.1.
 */
export function toHalf(value: number): number {
  if (value !== value) return 0
  float[0] = value
  const x = bits[0]!
  const sign = (x >>> 16) & 0x8000
  const magnitude = x & 0x7fffffff
  if (magnitude >= 0x477fe000) return sign | 0x7bff
  if (magnitude < 0x38800000) {
    // Subnormal: count steps of 2⁻²⁴.
    const steps = Math.abs(float[0]) * 16777216
    const whole = Math.floor(steps)
    const rest = steps - whole
    return sign | (rest > 0.5 || (rest === 0.5 && whole & 1) ? whole + 1 : whole)
  }
  const rounded = magnitude + 0xfff + ((magnitude >>> 13) & 1)
  return sign | ((rounded - 0x38000000) >>> 13)
}

/** Values that the twin makes halves of in one go. */
const PIECE = 16384

/** toHalf of every value. */
export function halvesOf(values: Float32Array): Uint16Array<ArrayBuffer> {
  const out = new Uint16Array(values.length)
  const twin = simd()
  if (twin)
    twin.scratch(() => {
      const [from, to] = [twin.take(PIECE), twin.take(PIECE)]
      for (let at = 0; at < values.length; at += PIECE) {
        const count = Math.min(PIECE, values.length - at)
        twin.floats(from, count).set(values.subarray(at, at + count))
        twin.assembly.halvesRow(from, to, count)
        out.set(new Uint16Array(twin.shared.buffer, to, count), at)
      }
    })
  else for (let i = 0; i < values.length; i++) out[i] = toHalf(values[i]!)
  return out
}

/** The number of an IEEE 754 binary16, exactly. */
export function fromHalf(half: number): number {
  const sign = half & 0x8000 ? -1 : 1
  const exponent = (half >>> 10) & 31
  const fraction = half & 0x3ff
  if (exponent === 31) return fraction ? NaN : sign * Infinity
  return sign * (exponent === 0 ? fraction / 16777216 : 2 ** (exponent - 25) * (1024 + fraction))
}
