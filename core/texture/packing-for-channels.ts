import { CHANNELS, DERIVED_CHANNELS } from '../document/channels'
import { GristError } from '../errors'
import type { Packing } from './packing'
import { filesOf } from './packing'

/**
 * A packing with the files that hold something of these channels, and no others: what a set has not, is not delivered as a plain file.
 * Throws packing-invalid where nothing is left.
 */
export function packingForChannels(packing: Packing, channels: ReadonlySet<string>): Packing {
  const known = [...CHANNELS, ...DERIVED_CHANNELS]
  const files = filesOf(packing, known).filter(({ slots }) =>
    slots.some((slot) => 'channel' in slot && channels.has(slot.channel)),
  )
  if (files.length === 0)
    throw new GristError(
      'packing-invalid',
      `${packing.title} takes nothing of ${CHANNELS.filter(({ id }) => channels.has(id))
        .map(({ title }) => title.toLowerCase())
        .join(', ')}.`,
    )
  return {
    ...packing,
    everyChannel: undefined,
    files: files.map((file) => ({ ...file, slots: [...file.slots] })) as Packing['files'],
  }
}
