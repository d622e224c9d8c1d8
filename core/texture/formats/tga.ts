import { EIGHT } from '../file-format'
import type { FileFormat, FileShape } from '../file-format'
import type { RowWriter, ByteWriter } from '../bytes/byte-writer'
import type { BandCoder } from '../bytes/row-writer'
import { writeRows } from '../bytes/row-writer'

export interface TgaShape {
  readonly width: number
  readonly height: number
  /** 3 for 24 bits, 4 for 32; grey is written three times. */
  readonly channels: 3 | 4
}

/**
 * A TGA of 24 or 32 bits, run-length coded row by row, first row at the top.
 * Rows are RGB(A) bytes. Source: Truevision TGA File Format Specification 2.0, image type 10.
 */
export function tgaCoder({ width, height, channels }: TgaShape): BandCoder<Uint8Array> {
  const rowLength = width * channels
  return {
    blockRows: 1,
    rowLength,
    height,
    code: (values, { rows }) => ({
      parts: Array.from({ length: rows }, (_, y) =>
        codeRow(values.subarray(y * rowLength, (y + 1) * rowLength), channels),
      ),
    }),
    start: (to) => {
      const header = new Uint8Array(18)
      header[2] = 10
      header[12] = width & 255
      header[13] = width >> 8
      header[14] = height & 255
      header[15] = height >> 8
      header[16] = channels * 8
      header[17] = 0x20 | (channels === 4 ? 8 : 0)
      to.append(header)
      return { add: ({ parts }) => parts.forEach((part) => to.append(part)), end: () => {} }
    },
  }
}

/** Writes a TGA on this thread, in any number of rows at a time. */
export const startTga = (shape: TgaShape, to: ByteWriter): RowWriter<Uint8Array> => writeRows(tgaCoder(shape), to)

function codeRow(row: Uint8Array, channels: 3 | 4): Uint8Array {
  const count = row.length / channels
  const out = new Uint8Array(row.length + Math.ceil(count / 128) + count)
  let at = 0
  const same = (a: number, b: number): boolean => {
    for (let c = 0; c < channels; c++) if (row[a * channels + c] !== row[b * channels + c]) return false
    return true
  }
  const put = (x: number): void => {
    const i = x * channels
    out[at++] = row[i + 2]!
    out[at++] = row[i + 1]!
    out[at++] = row[i]!
    if (channels === 4) out[at++] = row[i + 3]!
  }
  for (let x = 0; x < count;) {
    let run = 1
    while (run < 128 && x + run < count && same(x, x + run)) run++
    if (run > 1) {
      out[at++] = 0x80 | (run - 1)
      put(x)
      x += run
      continue
    }
    let plain = 1
    while (plain < 128 && x + plain < count && !(x + plain + 1 < count && same(x + plain, x + plain + 1))) plain++
    out[at++] = plain - 1
    for (let i = 0; i < plain; i++) put(x + i)
    x += plain
  }
  return out.slice(0, at)
}

/** TGA has no mark at its front: header fields must make sense together. */
function looksLikeTga(head: Uint8Array): boolean {
  if (head.length < 18) return false
  const [, mapType, type] = head
  return mapType! <= 1 && [1, 2, 3, 9, 10, 11].includes(type!) && [8, 16, 24, 32].includes(head[16]!)
}

const tgaShape = ({ width, height, channels }: FileShape): TgaShape => ({
  width,
  height,
  channels: channels === 4 ? 4 : 3,
})

const tga: FileFormat = {
  name: 'tga',
  title: 'TGA',
  mime: 'image/x-tga',
  isOf: looksLikeTga,
  reader: 'tga',
  lossy: false,
  write: {
    depths: [EIGHT],
    grey: false,
    alpha: true,
    blockRows: 1,
    code: (rows, shape, band) => tgaCoder(tgaShape(shape)).code(rows as Uint8Array, band),
    start: (shape, to) => tgaCoder(tgaShape(shape)).start(to),
  },
}
export default tga
