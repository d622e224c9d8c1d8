import { isTangentNormal } from '../document/channels'
import type { MaterialDocument } from '../document/document'
import type { ChannelPlace } from './channel-places'
import { channelPlaces } from './channel-places'
import { depthOf, writtenFormat } from './format-registry'
import type { DeliveryRecord } from './record'

const COLUMNS = ['channel', 'file', 'slots', 'colours', 'meaning']

/**
 * Which channel comes from where, for people who connect maps by hand and for scripts that do: a line a channel, its parts told apart by
 * tabs, a line that begins with # above.
 */
export const connectionList = (record: DeliveryRecord, document: MaterialDocument): string =>
  listOf(COLUMNS, rowsOf(record, document))

/** A part of a model in a tile of UVs, with the record of its maps and the folder that they lie in. */
export interface ConnectedPart {
  readonly part: string
  /** UDIM number of the tile. */
  readonly udim: number
  readonly folder: string
  readonly record: DeliveryRecord
  readonly document: MaterialDocument
}

/** The same of all parts of a model: which part and which tile of its UVs stand before each line. */
export const modelConnections = (parts: readonly ConnectedPart[]): string =>
  listOf(
    ['part', 'tile', ...COLUMNS],
    parts.flatMap(({ part, udim, folder, record, document }) =>
      rowsOf(record, document, folder).map((row) => [part.replace(/[\t\n\r]/g, ' '), String(udim), ...row]),
    ),
  )

const listOf = (columns: readonly string[], rows: readonly (readonly string[])[]): string =>
  `${[`# ${columns.join('\t')}`, ...rows.map((row) => row.join('\t'))].join('\n')}\n`

const rowsOf = (record: DeliveryRecord, document: MaterialDocument, folder?: string): string[][] =>
  channelPlaces(record, document).map((place) => {
    const { channel, planes } = place
    const [{ file }] = planes as [ChannelPlace['planes'][number]]
    // BC5 has two channels; engines work the third of a normal out.
    const held = file.block === 'bc5' ? planes.slice(0, 2) : planes
    const slots = file.slots.length === 1 ? 'grey' : held.map(({ slot }) => 'RGBA'[slot]).join('')
    const encoded = file.transfer === 'srgb' && planes.every(({ slot }) => slot < 3)
    const path = folder === undefined ? file.name : `${folder}/${file.name}`
    return [channel.id, path, slots, encoded ? 'sRGB' : 'plain', meaningOf(place, record, document)]
  })

function meaningOf(
  { channel, planes }: ChannelPlace,
  { heightMetres }: DeliveryRecord,
  document: MaterialDocument,
): string {
  const { format, bits } = planes[0]!.file
  const float = depthOf(writtenFormat(format), bits)?.float === true
  if (channel.type === 'normal') {
    if (!isTangentNormal(channel.id)) return `${float ? '-1 to 1' : '2v - 1'}, in the space of the model, Y up`
    const down = planes[1]!.inverted
    const third = planes[0]!.file.block === 'bc5' ? ', Z from the others' : ''
    return `${float ? '-1 to 1' : '2v - 1'}, Y ${down ? 'down' : 'up'}${third}`
  }
  if (channel.isHeight) return float ? 'metres from the surface' : `(v - 0.5) * ${heightMetres} m from the surface`
  if (channel.id === 'emission') return `v * ${document.emissionStrength}`
  return planes[0]!.inverted ? '1 - v' : 'v'
}
