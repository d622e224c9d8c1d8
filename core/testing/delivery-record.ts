import { deliverableChannels } from '../document/channels'
import type { MaterialDocument } from '../document/document'
import type { Packing } from '../texture/packing'
import { filesOf } from '../texture/packing'
import type { DeliveryRecord } from '../texture/record'

const HASH = '0'.repeat(64)

/** The record of a delivery of a document, as if it had been made, on a part where the packing is for parts. */
export function deliveryRecordOf(packing: Packing, document: MaterialDocument, sharpen = 0): DeliveryRecord {
  return {
    format: 'amber-grist/record',
    version: 1,
    application: 'Amber Grist 0.1',
    document,
    documentSha256: HASH,
    packing,
    width: 512,
    height: 256,
    dither: false,
    sharpen,
    names: {},
    normalY: 'up',
    heightMetres: document.heightMetres,
    keys: {},
    assets: {},
    files: filesOf(packing, deliverableChannels({ ...document, domain: { kind: 'part' } })).map((file) => ({
      name: `Slab_${file.map}.${file.format}`,
      map: file.map,
      format: file.format,
      bits: file.bits,
      transfer: file.transfer,
      slots: file.slots.map((slot) => ({
        channel: 'channel' in slot ? slot.channel : null,
        component: 'channel' in slot ? slot.component : 0,
        inverted: 'channel' in slot && slot.invert,
        constant: 'constant' in slot ? slot.constant : null,
        min: 0,
        max: 1,
      })),
      bytes: 1,
      sha256: HASH,
    })),
  }
}
