import type { SlotRange } from './pack'
import type { Slot } from './packing'
import type { RecordFile } from './record'

/** Slots as a record tells them, with the values they took. */
export const recordSlots = (slots: readonly Slot[], ranges: readonly SlotRange[]): RecordFile['slots'] =>
  slots.map((slot, i) => ({
    channel: 'channel' in slot ? slot.channel : null,
    component: 'channel' in slot ? slot.component : 0,
    inverted: 'channel' in slot && slot.invert,
    constant: 'constant' in slot ? slot.constant : null,
    ...ranges[i]!,
  }))
