import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { encodeSrgb } from '../colour/srgb'
import { memoryWriter } from '../texture/bytes/byte-writer'
import { startPng } from '../texture/formats/png'
import type { DisplayBytes } from './display'

/** Towards the light, as seen: from the upper left, 40° above the surface. */
const LIGHT = [-0.5416, 0.5416, 0.6428] as const
const STRENGTH = 3.1
const SKY = 0.55

/** The channels a lit picture is made of. */
export const LIT_CHANNELS = ['colour', 'normal', 'roughness', 'metallic', 'occlusion', 'emission'] as const

/** A lit tile as a PNG. */
export function litPicture(fields: ReadonlyMap<string, Field>): Uint8Array {
  const { width, height, pixels } = litPixels(fields)
  const writer = memoryWriter()
  const png = startPng({ width, height, channels: 3, bits: 8, srgb: true }, writer)
  const row = new Uint8Array(width * 3)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) for (let c = 0; c < 3; c++) row[x * 3 + c] = pixels[(y * width + x) * 4 + c]!
    png.rows(row)
  }
  png.end()
  return writer.bytes()
}

/**
 * A tile seen from straight above in one light and an even sky.
 * Source of the shading: glTF 2.0, appendix B.3 (Lambert and GGX with Smith's joint visibility, Schlick's Fresnel).
 */
export function litPixels(fields: ReadonlyMap<string, Field>): DisplayBytes {
  const any = fields.get('colour')!
  const { width, rows: height } = any
  const at = (channel: (typeof LIT_CHANNELS)[number], plane: number, x: number, y: number): number => {
    const field = fields.get(channel)!
    return field.planes[plane]![rowStart(field, y) + x]!
  }
  const pixels = new Uint8ClampedArray(width * height * 4).fill(255)
  const half = unit([LIGHT[0], LIGHT[1], LIGHT[2] + 1])
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const n = [0, 1, 2].map((p) => at('normal', p, x, y)) as Triple
      const dotLight = Math.max(0, n[0] * LIGHT[0] + n[1] * LIGHT[1] + n[2] * LIGHT[2])
      const dotView = Math.max(1e-3, n[2])
      const dotHalf = Math.max(0, n[0] * half[0] + n[1] * half[1] + n[2] * half[2])
      const alpha = Math.max(0.02, clamp(at('roughness', 0, x, y)) ** 2)
      const a2 = alpha * alpha
      const spread = a2 / (Math.PI * (dotHalf * dotHalf * (a2 - 1) + 1) ** 2)
      const visible =
        0.5 /
        Math.max(
          1e-4,
          dotLight * Math.sqrt(dotView * dotView * (1 - a2) + a2) +
            dotView * Math.sqrt(dotLight * dotLight * (1 - a2) + a2),
        )
      const fresnel = (1 - half[2]) ** 5
      const metal = clamp(at('metallic', 0, x, y))
      const open = clamp(at('occlusion', 0, x, y))
      for (let c = 0; c < 3; c++) {
        const base = clamp(at('colour', c, x, y))
        const f0 = 0.04 + (base - 0.04) * metal
        const mirror = (f0 + (1 - f0) * fresnel) * spread * visible
        const dull = ((1 - metal) * (1 - f0) * base) / Math.PI
        const sky = SKY * open * ((1 - metal) * base + f0)
        const light = (dull + mirror) * dotLight * STRENGTH + sky + at('emission', c, x, y)
        pixels[(y * width + x) * 4 + c] = Math.round(255 * encodeSrgb(clamp(light)))
      }
    }
  }
  return { width, height, pixels }
}

type Triple = [number, number, number]
const clamp = (v: number): number => (v < 0 ? 0 : v > 1 ? 1 : v)
const unit = (v: Triple): Triple => {
  const length = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])
  return [v[0] / length, v[1] / length, v[2] / length]
}
