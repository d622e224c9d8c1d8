import { hashBytes } from '../hash'
import { GristError } from '../errors'
import { materialHere } from './material-here'
import { memoryWriter } from '../texture/bytes/byte-writer'
import type { MaterialDocument } from '../document/document'
import type { DeliverRequest } from '../texture/delivery'
import { deliver } from '../texture/delivery'
import type { Packing } from '../texture/packing'

/** A delivery in memory, 64 wide: its record, its report, and its files by name. Opening the file `fail` throws. */
export async function deliverHere(
  document: MaterialDocument,
  packing: Packing,
  { fail, ...more }: Partial<DeliverRequest> & { fail?: string } = {},
) {
  const files = new Map<string, Uint8Array>()
  const open: DeliverRequest['open'] = (name) => {
    if (name === fail) throw new GristError('file-invalid', 'The disk is full.')
    const output = memoryWriter()
    return {
      output,
      close: async () => {
        const bytes = output.bytes()
        files.set(name, bytes)
        return { bytes: bytes.length, sha256: hashBytes(bytes) }
      },
    }
  }
  const fixed = { width: 64, dither: false, application: 'test', assets: {} }
  return {
    ...(await deliver(materialHere(document), { ...fixed, packing, open, ...more })),
    files,
  }
}
