import { hexByte } from './srgb'

/** A colour that a picture is made of, "#rrggbb", and the share of its texels that are like it. */
export interface PaletteColour {
  readonly hex: string
  readonly share: number
}

/** Texels under this opacity have no colour. */
const CLEAR = 128

/**
 * The colours of a picture (RGBA bytes), most of it first: boxes of colours are cut where they are longest, at the mean.
 * Source: P. Heckbert, "Color Image Quantization for Frame Buffer Display" (SIGGRAPH 1982), with means in place of medians.
 */
export function paletteOf(pixels: Uint8ClampedArray, count: number): PaletteColour[] {
  const texels: number[] = []
  for (let at = 0; at + 3 < pixels.length; at += 4) if (pixels[at + 3]! >= CLEAR) texels.push(at)
  if (texels.length === 0) return []
  const boxes = [texels]
  while (boxes.length < count) {
    const spreads = boxes.map((box) => spreadOf(pixels, box))
    const widest = spreads.reduce((best, { error }, i) => (error > spreads[best]!.error ? i : best), 0)
    const { channel, mean, error } = spreads[widest]!
    if (error === 0) break
    const box = boxes[widest]!
    const low = box.filter((at) => pixels[at + channel]! <= mean)
    const high = box.filter((at) => pixels[at + channel]! > mean)
    boxes.splice(widest, 1, low, high)
  }
  return boxes
    .map((box) => ({ hex: hexOf(pixels, box), share: box.length / texels.length }))
    .sort((a, b) => b.share - a.share)
}

/** The channel in which a box of texels spreads most: its mean there, and the sum of its squared distances from it. */
function spreadOf(pixels: Uint8ClampedArray, box: readonly number[]): { channel: number; mean: number; error: number } {
  const all = [0, 1, 2].map((channel) => {
    const mean = box.reduce((sum, at) => sum + pixels[at + channel]!, 0) / box.length
    return { channel, mean, error: box.reduce((sum, at) => sum + (pixels[at + channel]! - mean) ** 2, 0) }
  })
  return all.reduce((best, one) => (one.error > best.error ? one : best))
}

const hexOf = (pixels: Uint8ClampedArray, box: readonly number[]): string =>
  `#${[0, 1, 2].map((c) => hexByte(box.reduce((sum, at) => sum + pixels[at + c]!, 0) / box.length / 255)).join('')}`
