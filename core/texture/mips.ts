import { isNormal } from '../document/channels'
import { decodeSrgb, encodeSrgb, linearOfBytes } from '../colour/srgb'
import type { RasterImage } from '../field/pyramid'
import { toHalf, fromHalf } from './bytes/half'
import type { RecordFile } from './record'

/** What of a file decides how its mips are made. */
export type MipRules = Pick<RecordFile, 'transfer'> & {
  readonly slots: readonly { readonly channel: string | null; readonly component: number; readonly inverted: boolean }[]
}

/**
 * Mip level `level` of a file, rounded at each level as the file is.
 * Box in linear light for sRGB, normals brought back to unit length (MAPS, formats). Sides: Vulkan 1.3, section 12.3.
 */
export function mipOf(image: RasterImage, level: number, file: MipRules): RasterImage {
  let out = image
  for (let i = 0; i < level && (out.width > 1 || out.height > 1); i++) out = halved(out, file)
  return out
}

function halved(image: RasterImage, { transfer, slots }: MipRules): RasterImage {
  const { channels } = image
  const width = Math.max(1, image.width >> 1)
  const height = Math.max(1, image.height >> 1)
  const values = new Float32Array(width * height * channels)
  const encoded = (c: number): boolean => transfer === 'srgb' && c < 3 && !image.float
  const light = image.bits === 8 ? linearOfBytes() : null
  const linear = (v: number): number => (light ? light[Math.round(v * 255)]! : decodeSrgb(v))
  const { values: from } = image
  for (let y = 0; y < height; y++) {
    // A side of one texel is its own neighbour.
    const above = 2 * y * image.width
    const below = Math.min(image.height - 1, 2 * y + 1) * image.width
    for (let x = 0; x < width; x++) {
      const left = 2 * x
      const right = Math.min(image.width - 1, left + 1)
      for (let c = 0; c < channels; c++) {
        const [p, q] = [from[(above + left) * channels + c]!, from[(above + right) * channels + c]!]
        const [r, s] = [from[(below + left) * channels + c]!, from[(below + right) * channels + c]!]
        values[(y * width + x) * channels + c] = encoded(c)
          ? encodeSrgb((linear(p) + linear(q) + linear(r) + linear(s)) / 4)
          : (p + q + r + s) / 4
      }
    }
  }
  const normal = [0, 1, 2].map((component) =>
    slots.findIndex((slot) => slot.channel !== null && isNormal(slot.channel) && slot.component === component),
  )
  if (normal.every((slot) => slot >= 0)) unitLength(values, channels, normal, image.float)
  round(values, image)
  return { ...image, width, height, values }
}

/** Inverting a direction is changing its sign, so lengths do not depend on it. */
function unitLength(values: Float32Array, channels: number, [x, y, z]: number[], float: boolean): void {
  const read = (v: number): number => (float ? v : v * 2 - 1)
  for (let i = 0; i < values.length; i += channels) {
    const at = [i + x!, i + y!, i + z!]
    const length = Math.sqrt(at.reduce((sum, one) => sum + read(values[one]!) ** 2, 0)) || 1
    for (const one of at) {
      const v = read(values[one]!) / length
      values[one] = float ? v : v * 0.5 + 0.5
    }
  }
}

function round(values: Float32Array, { bits, float }: Pick<RasterImage, 'bits' | 'float'>): void {
  if (float) {
    if (bits === 16) for (let i = 0; i < values.length; i++) values[i] = fromHalf(toHalf(values[i]!))
    return
  }
  const max = bits === 8 ? 255 : 65535
  for (let i = 0; i < values.length; i++) values[i] = Math.round(values[i]! * max) / max
}
