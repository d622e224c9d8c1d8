import { decodeSrgb, linearOfBytes } from '../colour/srgb'
import type { Field } from '../field/field'
import { createField } from '../field/field'
import type { RasterImage } from '../field/pyramid'
import type { Channel } from '../document/channels'
import type { RecordFile } from './record'

/** A file's numbers, and how its slots are to be read. */
export interface DecodedFile {
  readonly record: Pick<RecordFile, 'transfer' | 'slots'>
  readonly image: RasterImage
}

/** A channel read back. `steps` is how many steps its file has between 0 and 1; 0 for floats. */
export interface UnpackedChannel {
  readonly channel: Channel
  readonly field: Field
  readonly steps: number
}

/**
 * Channels as files hold them: the inverse of packing, but for what rounding took.
 * All images have one size. Units: as inside (colours linear, normals −1…1, height with 0.5 as the surface).
 */
export function unpack(
  files: readonly DecodedFile[],
  channels: ReadonlyMap<string, Channel>,
  heightMetres: number,
): UnpackedChannel[] {
  const found = new Map<string, UnpackedChannel>()
  for (const { record, image } of files)
    record.slots.forEach((slot, s) => {
      const channel = slot.channel === null ? undefined : channels.get(slot.channel)
      if (!channel) return
      const known = found.get(channel.id) ?? {
        channel,
        field: createField(channel.type, image.width, image.height),
        steps: image.float ? 0 : image.bits === 8 ? 255 : 65535,
      }
      found.set(channel.id, known)
      const plane = known.field.planes[slot.component]!
      const step = image.channels
      const decode = record.transfer === 'srgb' && s < 3 && !image.float
      const light = image.bits === 8 ? linearOfBytes() : null
      for (let i = 0; i < plane.length; i++) {
        let v = image.values[i * step + Math.min(s, step - 1)]!
        if (slot.inverted) v = image.float && channel.type === 'normal' ? -v : 1 - v
        if (decode) v = light ? light[Math.round(v * 255)]! : decodeSrgb(v)
        if (image.float && channel.isHeight) v = v / heightMetres + 0.5
        plane[i] = channel.type === 'normal' && !image.float ? v * 2 - 1 : v
      }
    })
  return [...found.values()]
}
