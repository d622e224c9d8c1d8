import type { Channel } from '../document/channels'
import { deliverableChannels } from '../document/channels'
import type { MaterialDocument } from '../document/document'
import type { DeliveryRecord, RecordFile } from './record'

/** Where one plane of a channel lies: a slot of a file, 0 is red, and whether it holds 1 − value there. */
export interface PlanePlace {
  readonly file: RecordFile
  readonly slot: number
  readonly inverted: boolean
}

/** Where a channel lies in the files of a delivery: its planes, in their order. */
export interface ChannelPlace {
  readonly channel: Channel
  readonly planes: readonly PlanePlace[]
}

/** The channels that files of a delivery hold whole, each at its first place, in the order of channels. */
export function channelPlaces(
  record: Pick<DeliveryRecord, 'files'>,
  document: Pick<MaterialDocument, 'channels' | 'domain'>,
): ChannelPlace[] {
  return deliverableChannels(document).flatMap((channel) => {
    const wanted = channel.type === 'grey' ? 1 : 3
    for (const file of record.files) {
      const planes = Array.from({ length: wanted }, (_, component) => {
        const slot = file.slots.findIndex((one) => one.channel === channel.id && one.component === component)
        return slot < 0 ? null : { file, slot, inverted: file.slots[slot]!.inverted }
      })
      if (planes.every((plane) => plane !== null)) return [{ channel, planes }]
    }
    return []
  })
}
