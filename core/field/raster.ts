import type { RasterImage } from './pyramid'

/** What a reader of a raster's bytes must know. */
export type RasterShape = Pick<RasterImage, 'width' | 'height' | 'channels' | 'bits' | 'float'>

/**
 * A decoded image as plain bytes, little-endian, in the width its file had: one, two or four bytes a value.
 * Shape: interleaved channels, top row first. Reading them back gives the decoder's values, bit for bit.
 */
export function rasterBytes({ values, bits, float }: Pick<RasterImage, 'values' | 'bits' | 'float'>): Uint8Array {
  if (float || bits === 32) return new Uint8Array(values.buffer, values.byteOffset, values.byteLength)
  const max = bits === 8 ? 255 : 65535
  const steps = bits === 8 ? new Uint8Array(values.length) : new Uint16Array(values.length)
  for (let i = 0; i < values.length; i++) steps[i] = Math.round(values[i]! * max)
  return new Uint8Array(steps.buffer)
}

/** The values of rasterBytes again. */
export function valuesOfRaster(bytes: Uint8Array, { bits, float }: Pick<RasterImage, 'bits' | 'float'>): Float32Array {
  // A copy: what a buffer of Node is sliced to is still a view of a larger one.
  const { buffer } = bits === 8 ? bytes : new Uint8Array(bytes)
  if (float || bits === 32) return new Float32Array(buffer)
  const max = bits === 8 ? 255 : 65535
  const steps = bits === 8 ? bytes : new Uint16Array(buffer)
  const values = new Float32Array(steps.length)
  for (let i = 0; i < values.length; i++) values[i] = steps[i]! / max
  return values
}
