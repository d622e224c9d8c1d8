import type { RasterImage } from './pyramid'

/** What a reader of a raster's bytes must know. */
export type RasterShape = Pick<RasterImage, 'width' | 'height' | 'channels' | 'bits' | 'float'>

/**
 * A decoded image as plain bytes, little-endian, in the width its file had: one, two or four bytes a value.
 * Shape: interleaved channels, top row first. Reading them back gives the decoder's values, bit for bit.
 */
export function rasterBytes({ values, bits, float }: Pick<RasterImage, 'values' | 'bits' | 'float'>): Uint8Array {
  if (float || bits === 32) return new Uint8Array(values.buffer, values.byteOffset, values.byteLength)
  if (bits === 8) return Uint8Array.from(values, (v) => Math.round(v * 255))
  return new Uint8Array(Uint16Array.from(values, (v) => Math.round(v * 65535)).buffer)
}

/** The values of rasterBytes again. */
export function valuesOfRaster(bytes: Uint8Array, { bits, float }: Pick<RasterImage, 'bits' | 'float'>): Float32Array {
  if (bits === 8) return Float32Array.from(bytes, (v) => v / 255)
  const { buffer } = bytes.slice()
  if (float || bits === 32) return new Float32Array(buffer)
  return Float32Array.from(new Uint16Array(buffer), (v) => v / 65535)
}
