import type { Channel } from '../document/channels'
import { channelsOf } from '../document/channels'
import type { MaterialDocument } from '../document/document'
import { sharpenedOf } from '../document/sharpening'
import { depthOf, writtenFormat } from './format-registry'
import type { DeliveryRecord, RecordFile } from './record'

/** What a delivery's files hold and how they are meant, in words for whoever brings them into an engine. */
export function deliveryText(record: DeliveryRecord, document: MaterialDocument): string {
  const channels = new Map(channelsOf(document).map((channel) => [channel.id, channel]))
  const held = new Set(record.files.flatMap(({ slots }) => slots.map(({ channel }) => channel)))
  const holds = (has: (channel: Channel) => unknown): boolean =>
    [...channels.values()].some((channel) => held.has(channel.id) && has(channel))
  const paragraphs = [
    [
      `${document.name}, ${record.width} × ${record.height}, made with ${record.application}`,
      `Packing: ${String(record.packing.title)}`,
      `One tile measures ${document.domain.metres.join(' × ')} m.`,
    ],
    ...record.files.map((file) => fileLines(file, channels)),
    [
      ...(holds(({ type }) => type === 'normal') ? [`Normals: Y points ${record.normalY} (green).`] : []),
      ...(holds(({ isHeight }) => isHeight) ? heightLines(record, channels) : []),
      ...(held.has('emission') ? [`Emission: multiply by ${document.emissionStrength}, its strength.`] : []),
      ...sharpenedOf(channelsOf(document), record.sharpen).map(
        ({ channel, amount }) => `${channel.title} was sharpened by ${Math.round(amount * 100)} %.`,
      ),
      'record.json holds all that is needed to make these files again.',
    ],
  ]
  return paragraphs.map((lines) => `${lines.join('\n')}\n`).join('\n')
}

const SLOT_NAMES = ['red', 'green', 'blue', 'alpha']

function fileLines(
  { name, format, bits, transfer, slots }: RecordFile,
  channels: ReadonlyMap<string, Channel>,
): string[] {
  const written = writtenFormat(format)
  const depth = depthOf(written, bits)?.title ?? `${bits}-bit`
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
    ...contents.map((text, i) => `  ${slots.length === 1 ? 'grey' : SLOT_NAMES[i]}: ${text}`),
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
