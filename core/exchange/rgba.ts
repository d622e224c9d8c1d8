import { encodeSrgb } from '../colour/srgb'
import type { Channel } from '../document/channels'
import type { Field } from '../field/field'
import { rowStart } from '../field/field'
import { memoryWriter } from '../texture/bytes/byte-writer'
import { startPng } from '../texture/formats/png'

/** Texels as image editors have them: R, G, B, A interleaved, the first row first. */
export interface Rgba<Values extends Uint8Array | Uint16Array = Uint8Array> {
  readonly width: number
  readonly height: number
  readonly values: Values
}

/** Numbers of 0–1 that stand for a channel's: colours encoded, directions about the middle; null is a mask. */
const shownBy = (channel: Channel | null): ((value: number) => number) =>
  channel?.type === 'colour' ? encodeSrgb : channel?.type === 'normal' ? (v) => v * 0.5 + 0.5 : (v) => v

/** A field with another as its opacity, in whole steps. Shape: both of one size, uniform or not. */
export function rgbaOf<Values extends Uint8Array | Uint16Array>(
  field: Field,
  mask: Field | null,
  channel: Channel | null,
  Steps: new (length: number) => Values,
): Rgba<Values> {
  const { width, height } = field
  const values = new Steps(width * height * 4)
  const top = values.BYTES_PER_ELEMENT === 1 ? 255 : 65535
  const shown = shownBy(channel)
  const step = (v: number): number => Math.round(Math.min(1, Math.max(0, v)) * top)
  for (let y = 0; y < height; y++) {
    const [row, own] = [rowStart(field, y), mask ? rowStart(mask, y) : 0]
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 4
      for (let c = 0; c < 3; c++) values[at + c] = step(shown(field.planes[c % field.planes.length]![row + x]!))
      values[at + 3] = mask ? step(mask.planes[0]![own + x]!) : top
    }
  }
  return { width, height, values }
}

/** A PNG; `srgb` marks colours. Opaque ones have no opacity. */
export function pngOf({ width, height, values }: Rgba<Uint8Array | Uint16Array>, srgb: boolean): Uint8Array {
  const top = values.BYTES_PER_ELEMENT === 1 ? 255 : 65535
  let opaque = true
  for (let i = 3; i < values.length && opaque; i += 4) opaque = values[i] === top
  const to = memoryWriter()
  const bits = values.BYTES_PER_ELEMENT === 1 ? 8 : 16
  const writer = startPng({ width, height, channels: opaque ? 3 : 4, bits, srgb }, to)
  writer.rows(opaque ? withoutOpacity(values) : values)
  void writer.end()
  return to.bytes()
}

function withoutOpacity<Values extends Uint8Array | Uint16Array>(values: Values): Values {
  const out = new (values.constructor as new (length: number) => Values)((values.length / 4) * 3)
  for (let i = 0; i < out.length / 3; i++) for (let c = 0; c < 3; c++) out[i * 3 + c] = values[i * 4 + c]!
  return out
}

/** At most so many texels a side: the mean of those that fall together. */
export function smaller({ width, height, values }: Rgba, side: number): Rgba {
  const each = Math.max(1, Math.ceil(Math.max(width, height) / side))
  const [w, h] = [Math.max(1, Math.floor(width / each)), Math.max(1, Math.floor(height / each))]
  const out = new Uint8Array(w * h * 4)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let c = 0; c < 4; c++) {
        let sum = 0
        for (let j = 0; j < each; j++)
          for (let i = 0; i < each; i++) sum += values[((y * each + j) * width + x * each + i) * 4 + c]!
        out[(y * w + x) * 4 + c] = Math.round(sum / each ** 2)
      }
  return { width: w, height: h, values: out }
}
