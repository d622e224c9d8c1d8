import { closeSync, openSync, readSync } from 'node:fs'
import { join } from 'node:path'
import { decodeSrgb } from '#core/colour/srgb'
import { GristError } from '#core/errors'
import type { Field } from '#core/field/field'
import { createField } from '#core/field/field'
import { parseDocument } from '#core/graph/document'
import { channelsOf } from '#core/layers/expand'
import type { CheckSubject, CheckedFile } from '#core/maps/check'
import { parseRecord } from '#core/maps/record'
import { RECORD_NAME } from './deliver-folder'
import { readJson } from './files'
import { readImage } from './read-image'

/** Reads a delivery's files back into channels, as its record says they are to be read. */
export async function readDelivery(folder: string): Promise<CheckSubject> {
  const record = parseRecord(readJson(join(folder, RECORD_NAME)))
  const channels = new Map(channelsOf(parseDocument(record.document)).map((channel) => [channel.id, channel]))
  const fields = new Map<string, { field: Field; steps: number }>()
  const files: CheckedFile[] = []
  for (const file of record.files) {
    const path = join(folder, file.name)
    const image = await readImage(path)
    if (image.width !== record.width || image.height !== record.height)
      throw new GristError(
        'file-invalid',
        `Expected ${record.width} × ${record.height} but the file has ${image.width} × ${image.height}.`,
        { file: path },
      )
    files.push({ record: file, marked: file.format === 'png' ? hasSrgbMark(path) : null })
    file.slots.forEach((slot, s) => {
      const channel = slot.channel === null ? undefined : channels.get(slot.channel)
      if (!channel) return
      const known = fields.get(channel.id) ?? {
        field: createField(channel.type, image.width, image.height),
        steps: image.float ? 0 : image.bits === 8 ? 255 : 65535,
      }
      fields.set(channel.id, known)
      const plane = known.field.planes[slot.component]!
      const step = image.channels
      const decode = file.transfer === 'srgb' && s < 3 && !image.float
      for (let i = 0; i < plane.length; i++) {
        let v = image.values[i * step + Math.min(s, step - 1)]!
        if (slot.inverted) v = image.float && channel.type === 'normal' ? -v : 1 - v
        if (decode) v = decodeSrgb(v)
        if (image.float && channel.id === 'height') v = v / record.heightMetres + 0.5
        plane[i] = channel.type === 'normal' && !image.float ? v * 2 - 1 : v
      }
    })
  }
  const list = [...fields].map(([id, found]) => ({ channel: channels.get(id)!, ...found }))
  return { width: record.width, height: record.height, channels: list, files }
}

/** Whether a PNG carries an sRGB chunk before its pixels. */
function hasSrgbMark(path: string): boolean {
  const head = Buffer.alloc(64)
  const file = openSync(path, 'r')
  readSync(file, head, 0, 64, 0)
  closeSync(file)
  return head.includes('sRGB', 0, 'latin1')
}
