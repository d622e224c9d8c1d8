import { floorMod } from '../../field/field'

/**
 * Thresholds of an 8×8 ordered dither, (k + ½)/64. Source: B. E. Bayer, "An optimum method for two-level rendition of
 * continuous-tone pictures", ICC 1973.
 */
const BAYER = Float64Array.from({ length: 64 }, (_, i) => {
  let x = i & 7
  let y = i >> 3
  let value = 0
  for (let bit = 0; bit < 3; bit++) {
    value = value * 4 + (((x ^ y) & 1) * 2 + (y & 1))
    x >>= 1
    y >>= 1
  }
  return (value + 0.5) / 64
})

/** What is added before rounding down in a row, by the column modulo 8. */
export const ditherRow = (y: number, dither: boolean): Float64Array =>
  dither ? BAYER.subarray(floorMod(y, 8) << 3, (floorMod(y, 8) << 3) + 8) : NEAREST
const NEAREST = new Float64Array(8).fill(0.5)

/** Values 0–1 to whole steps: rounded to nearest, or by the ordered dither. Values outside are held at the ends. */
export function quantise(
  values: Float32Array,
  {
    bits,
    channels,
    width,
    top,
    dither,
  }: { bits: 8 | 16; channels: number; width: number; top: number; dither: boolean },
): Uint8Array | Uint16Array {
  const max = bits === 8 ? 255 : 65535
  const out = bits === 8 ? new Uint8Array(values.length) : new Uint16Array(values.length)
  for (let i = 0; i < values.length; i++) {
    const texel = Math.floor(i / channels)
    const x = texel % width
    const y = top + Math.floor(texel / width)
    const threshold = ditherRow(y, dither)[x & 7]!
    const v = Math.floor(values[i]! * max + threshold)
    out[i] = v < 0 ? 0 : v > max ? max : v
  }
  return out
}
