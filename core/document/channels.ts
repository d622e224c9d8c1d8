import { hexToLinear } from '../colour/srgb'
import type { Channel, OptionalChannel } from './channel'
import { CHANNEL_USES } from './channel'
import { channels } from './channels/channels.generated'
import { derived } from './derived/derived.generated'
import type { MaterialDocument } from './document'
import { optional } from './optional/optional.generated'

export type { Channel, OptionalChannel } from './channel'

/** The channels every material has, in the order they are shown. */
export const CHANNELS: readonly Channel[] = [...channels].sort((a, b) => a.order - b.order)

const byId = new Map(CHANNELS.map((channel) => [channel.id, channel]))

/** A channel that every material has, by its id. */
export const fixedChannel = (id: string): Channel | undefined => byId.get(id)

/** Whether a channel holds tangent normals, as every material has; those of a material’s own never do. */
export const isTangentNormal = (id: string): boolean => byId.get(id)?.type === 'normal'

/** Whether a channel holds directions: tangent normals, or such as are made of them. */
export const isNormal = (id: string): boolean =>
  isTangentNormal(id) || DERIVED_CHANNELS.some((one) => one.id === id && one.type === 'normal')

/** Channels that a material may have, by what they are for. */
export const OPTIONAL_CHANNELS: readonly OptionalChannel[] = CHANNEL_USES.flatMap((use) =>
  optional.filter((channel) => channel.use === use),
)

/** A channel that a material may have, by its id. */
export const optionalChannel = (id: string): OptionalChannel | undefined => optional.find((one) => one.id === id)

/** All channels of a document: the fixed ones, then its own by title, as a database keeps no order of members. */
export function channelsOf(document: Pick<MaterialDocument, 'channels'>): Channel[] {
  const own = Object.entries(document.channels).map(([id, { title, type, backdrop }]): Channel => {
    const values = typeof backdrop === 'string' ? hexToLinear(backdrop) : [backdrop]
    const planes = type === 'colour' ? [0, 1, 2].map((p) => values[p] ?? values[0]!) : [values[0]!]
    return {
      id,
      title: title ?? id,
      type,
      backdrop: planes,
      transfer: type === 'colour' ? 'srgb' : 'raw',
      range: [0, 1],
    }
  })
  own.sort((a, b) => (a.title < b.title ? -1 : a.title > b.title ? 1 : a.id < b.id ? -1 : 1))
  return [...CHANNELS, ...own]
}

/** Channels that are made of others on their way out. */
export const DERIVED_CHANNELS: readonly Channel[] = [...derived].sort((a, b) => a.order - b.order)

/**
 * What files can be made of: the channels of a document, then those that are made of them on their way out, of mesh data for parts only;
 * one of its own with the same name stands in for such a one.
 */
export function deliverableChannels(document: Pick<MaterialDocument, 'channels' | 'domain'>): Channel[] {
  const made = DERIVED_CHANNELS.filter(
    ({ id, derived: { onPart = false } = {} }) =>
      !Object.hasOwn(document.channels, id) && (!onPart || document.domain.kind === 'part'),
  )
  return [...channelsOf(document), ...made]
}
