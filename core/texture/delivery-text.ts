import { metresOf } from '../document/domain'
import type { Channel } from '../document/channels'
import { deliverableChannels, isTangentNormal } from '../document/channels'
import type { MaterialDocument } from '../document/document'
import type { Surface } from '../document/surface'
import { sharpenedOf } from '../document/sharpening'
import { depthOf, writtenFormat } from './format-registry'
import { frameDial } from './frames'
import type { Frames } from './packing'
import { parsePacking } from './packing'
import type { DeliveryRecord, RecordFile } from './record'

/** What a delivery's files hold and how they are meant, in words for whoever brings them into an engine. */
export function deliveryText(record: DeliveryRecord, document: MaterialDocument): string {
  const channels = new Map(deliverableChannels(document).map((channel) => [channel.id, channel]))
  const held = new Set(record.files.flatMap(({ slots }) => slots.map(({ channel }) => channel)))
  const holds = (has: (channel: Channel) => unknown): boolean =>
    [...channels.values()].some((channel) => held.has(channel.id) && has(channel))
  const { frames } = parsePacking(record.packing)
  const paragraphs = [
    [
      `${document.name}, ${record.width} × ${record.height}, made with ${record.application}`,
      `Packing: ${String(record.packing.title)}`,
      `One tile measures ${metresOf(document).join(' × ')} m.`,
      `Surface: ${surfaceInWords(document.surface)}.`,
    ],
    ...record.files.map((file) => fileLines(file, channels)),
    [
      ...(frames ? framesLines(frames, document) : []),
      ...(holds(({ id }) => isTangentNormal(id)) ? [`Normals: Y points ${record.normalY} (green).`] : []),
      ...(holds(({ isHeight }) => isHeight) ? heightLines(record, channels) : []),
      ...(held.has('emission') ? [`Emission: multiply by ${document.emissionStrength}, its strength.`] : []),
      ...sharpenedOf(deliverableChannels(document), record.sharpen).map(
        ({ channel, amount }) => `${channel.title} was sharpened by ${Math.round(amount * 100)} %.`,
      ),
      'record.json holds all that is needed to make these files again.',
    ],
  ]
  return paragraphs.map((lines) => `${lines.join('\n')}\n`).join('\n')
}

const OPACITIES: Record<Surface['opacity'], string> = {
  opaque: 'opaque',
  'cut-out': 'cut out where opacity is below a half',
  blended: 'blended by opacity',
  additive: 'added to what lies behind it, by opacity',
}

const surfaceInWords = ({ light, opacity, sides }: Surface): string =>
  [light, OPACITIES[opacity], sides === 'one' ? 'seen from its front only' : 'seen from both sides'].join(', ')

const SLOT_NAMES = ['red', 'green', 'blue', 'alpha']

function fileLines(
  { name, format, bits, transfer, slots, block, mips }: RecordFile,
  channels: ReadonlyMap<string, Channel>,
): string[] {
  const written = writtenFormat(format)
  const plain = depthOf(written, bits)?.title ?? `${bits}-bit`
  const depth = `${block ? block.toUpperCase() : plain}${mips ? ' with mips' : ''}`
  const contents = slots.map(({ channel: id, component, inverted, constant }) => {
    if (id === null) return `always ${constant}`
    const channel = channels.get(id)
    const part =
      channel?.type === 'colour'
        ? ` ${SLOT_NAMES[component]}`
        : channel?.type === 'normal'
          ? ` ${'XYZ'[component]}`
          : ''
    return `${channel?.title ?? id}${part}${inverted ? ', inverted' : ''}`
  })
  return [
    `${name}: ${written.title}, ${depth}, ${transfer === 'srgb' ? 'colours encoded as sRGB' : 'plain values'}`,
    ...contents.map((text, i) => {
      // BC5 has two channels; engines work the third of a normal out.
      const held = block === 'bc5' && i === 2 ? `${text}, to be worked out from the others` : text
      return `  ${slots.length === 1 ? 'grey' : SLOT_NAMES[i]}: ${held}`
    }),
  ]
}

function framesLines(frames: Frames, document: MaterialDocument): string[] {
  const { columns, rows, loops } = frames
  const { label, min = 0, max = 1 } = frameDial(document, frames)
  const end = loops ? `towards ${max}, where it begins again` : `to ${max}`
  return [
    `Frames: ${columns} across and ${rows} down, row by row from the top left; “${label}” goes from ${min} ${end}.`,
  ]
}

function heightLines({ heightMetres, files }: DeliveryRecord, channels: ReadonlyMap<string, Channel>): string[] {
  const isFloat = ({ format, bits }: RecordFile): boolean => depthOf(writtenFormat(format), bits)?.float === true
  const floats = files.some(
    (file) => isFloat(file) && file.slots.some(({ channel }) => channels.get(channel ?? '')?.isHeight),
  )
  return [
    `Height: 0 is lowest, 1 highest, ${heightMetres} m apart; 0.5 is the surface.`,
    ...(floats ? ['Height in float files: metres from the surface.'] : []),
  ]
}
