import { EIGHT, beginsWith } from '../file-format'
import type { FileFormat } from '../file-format'
import { blockTexels, codedRows } from '../bytes/block-texels'
import { ddsHeader } from '../bytes/dds-container'

/**
 * DDS: blocks or RGBA bytes with their mips, as graphics cards take them. BC1, BC3 and plain texels have the short header, which every
 * reader knows and which tells of no encoding; the others have the longer one, which marks sRGB. Source: Microsoft, "Programming Guide for DDS".
 */
const dds: FileFormat = {
  name: 'dds',
  title: 'DDS',
  mime: 'image/vnd-ms.dds',
  isOf: (head) => beginsWith(head, 0x44, 0x44, 0x53, 0x20),
  reader: 'dds',
  lossy: false,
  write: {
    depths: [EIGHT],
    grey: true,
    alpha: true,
    blockRows: 4,
    holdsBlocks: true,
    code: (rows, shape) => ({ parts: [codedRows(rows as Uint8Array, shape)] }),
    start: (shape, to) => {
      to.append(ddsHeader(shape))
      const append = ({ parts }: { readonly parts: readonly Uint8Array[] }): void =>
        parts.forEach((part) => to.append(part))
      return { add: append, addMip: append, end: () => {} }
    },
    readBack: async (steps, shape) => blockTexels(steps, shape),
  },
}
export default dds
