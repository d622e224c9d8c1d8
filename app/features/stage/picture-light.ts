import type { RasterImage } from '#core/field/pyramid'
import { makePyramid } from '#core/field/pyramid'
import type { Radiance } from './environments'

/** Texels across that light is read at: four faces of 64 go around, so that no small sun falls between two of them. */
const WIDTH = 256

/**
 * Light from a picture of all directions (equirectangular: left to right all around, −z in its middle, top to bottom from up to
 * down). Integer files are sRGB-encoded, floats are linear light; both as they are.
 */
export function radianceOf(picture: RasterImage): Radiance {
  const { levels } = makePyramid(picture, { image: '', encoded: true, premultiplied: true })
  const { width, height, texels } = levels.find((level) => level.width <= WIDTH) ?? levels.at(-1)!
  return (x, y, z) => {
    // Between the four texels around; left and right of the picture meet, its top and bottom do not.
    const s = (0.5 + Math.atan2(x, -z) / (2 * Math.PI)) * width - 0.5
    const t = (Math.acos(Math.min(1, Math.max(-1, y))) / Math.PI) * height - 0.5
    const [left, top] = [Math.floor(s), Math.floor(t)]
    const sum: [number, number, number] = [0, 0, 0]
    for (const [i, j] of [
      [0, 0],
      [1, 0],
      [0, 1],
      [1, 1],
    ] as const) {
      const column = (((left + i) % width) + width) % width
      const row = Math.min(height - 1, Math.max(0, top + j))
      const weight = (i ? s - left : 1 - s + left) * (j ? t - top : 1 - t + top)
      for (let c = 0; c < 3; c++) sum[c] = sum[c]! + weight * texels[(row * width + column) * 4 + c]!
    }
    return sum
  }
}
