import { GristError, show } from '../errors'
import { pow } from '../elementary'

/**
 * sRGB-encoded to linear. Range: any; negative values mirror, values above 1 go on along the curve.
 * Source: IEC 61966-2-1, 5.2; the extension as in IEC 61966-2-1 amendment 1 (scRGB-like, odd).
 */
export function decodeSrgb(encoded: number): number {
  if (encoded < 0) return -decodeSrgb(-encoded)
  return encoded <= 0.04045 ? encoded / 12.92 : pow((encoded + 0.055) / 1.055, 2.4)
}

let linearTable: Float32Array | null = null

/** Linear light of each of the 256 codes of an 8-bit sRGB file, as float32. Made at the first call. */
export const linearOfBytes = (): Float32Array =>
  (linearTable ??= Float32Array.from({ length: 256 }, (_, code) => decodeSrgb(code / 255)))

/** Linear to sRGB-encoded, the inverse of decodeSrgb. Source: IEC 61966-2-1, 5.2. */
export function encodeSrgb(linear: number): number {
  if (linear < 0) return -encodeSrgb(-linear)
  return linear <= 0.0031308 ? linear * 12.92 : 1.055 * pow(linear, 1 / 2.4) - 0.055
}

/** Luminance weights of linear RGB with sRGB primaries. Source: ITU-R BT.709-6, item 3.2. */
export const LUMINANCE = [0.2126, 0.7152, 0.0722] as const

export type Rgb = [number, number, number]

/** "#rrggbb" (sRGB-encoded) to linear RGB. Throws parameter-invalid on any other text. */
export function hexToLinear(hex: string): Rgb {
  const [r, g, b] = hexToEncoded(hex)
  return [decodeSrgb(r), decodeSrgb(g), decodeSrgb(b)]
}

/** "#rrggbb" to encoded RGB in 0–1. Throws parameter-invalid on any other text. */
export function hexToEncoded(hex: string): Rgb {
  if (!/^#[0-9a-fA-F]{6}$/.test(hex))
    throw new GristError('parameter-invalid', `Expected a colour as "#rrggbb" but received ${show(hex)}.`)
  const value = parseInt(hex.slice(1), 16)
  return [(value >> 16) / 255, ((value >> 8) & 255) / 255, (value & 255) / 255]
}

/** Linear RGB to "#rrggbb" (sRGB-encoded), rounded to bytes; values outside 0–1 are held at the ends. */
export const linearToHex = (rgb: readonly number[]): string => `#${rgb.map((v) => hexByte(encodeSrgb(v))).join('')}`

/** An encoded share as two hex digits. */
export const hexByte = (value: number): string =>
  Math.round(255 * Math.min(1, Math.max(0, value)))
    .toString(16)
    .padStart(2, '0')
