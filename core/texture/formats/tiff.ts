import { GristError } from '../../errors'
import type { ByteWriter, RowWriter } from '../bytes/byte-writer'
import { littleEndian } from '../bytes/npy'
import type { FileFormat, FileRows, FileShape } from '../file-format'
import type { BandCoder } from '../bytes/row-writer'
import { writeRows } from '../bytes/row-writer'
import { EIGHT, FLOAT, SIXTEEN, beginsWith } from '../file-format'

export interface TiffShape {
  readonly width: number
  readonly height: number
  /** 1 or 2: black is 0; 3 and 4: RGB, the fourth being alpha that is not multiplied in. */
  readonly channels: 1 | 2 | 3 | 4
  readonly bits: 8 | 16 | 32
  /** 32 bits are floats. */
  readonly float: boolean
}

/** Bytes of rows in one strip, about. Source: TIFF 6.0, section 7, recommends 8 kB; readers today like more. */
const STRIP = 1 << 16
/** Offsets are 32 bits wide. */
const MAX_BYTES = 2 ** 32 - 1

/**
 * A baseline TIFF, uncompressed, little-endian.
 * Source: TIFF Revision 6.0 (1992), sections 2 to 7, ExtraSamples of section 18, SampleFormat of section 19. Own code: a
 * package writes the whole picture at once and adds map-projection tags. Throws size-invalid beyond 4 GB.
 */
export function tiffCoder(shape: TiffShape): BandCoder<FileRows> {
  return {
    blockRows: 1,
    rowLength: shape.width * shape.channels,
    height: shape.height,
    code: (values) => ({ parts: [littleEndian(values)] }),
    start: (to) => {
      to.append(tiffHead(shape))
      return { add: ({ parts }) => parts.forEach((part) => to.append(part)), end: () => {} }
    },
  }
}

/** Writes a TIFF on this thread, in any number of rows at a time. */
export const startTiff = (shape: TiffShape, to: ByteWriter): RowWriter<FileRows> => writeRows(tiffCoder(shape), to)

/** All that stands before the rows. */
function tiffHead({ width, height, channels, bits, float }: TiffShape): Uint8Array {
  const rowBytes = (width * channels * bits) / 8
  const stripRows = Math.max(1, Math.min(height, Math.floor(STRIP / rowBytes)))
  const strips = Math.ceil(height / stripRows)
  const alpha = channels === 2 || channels === 4
  const tags = alpha ? 13 : 12
  const bitsAt = 8 + 2 + tags * 12 + 4
  const formatAt = bitsAt + channels * 2
  const offsetsAt = formatAt + channels * 2
  const countsAt = offsetsAt + strips * 4
  const dataAt = countsAt + strips * 4
  if (dataAt + rowBytes * height > MAX_BYTES)
    throw new GristError(
      'size-invalid',
      `A TIFF of ${width} × ${height} would be over 4 GB. Choose EXR or a smaller size.`,
    )
  const head = new DataView(new ArrayBuffer(dataAt))
  head.setUint16(0, 0x4949, true)
  head.setUint16(2, 42, true)
  head.setUint32(4, 8, true)
  head.setUint16(8, tags, true)
  let at = 10
  const tag = (id: number, type: 3 | 4, count: number, value: number): void => {
    head.setUint16(at, id, true)
    head.setUint16(at + 2, type, true)
    head.setUint32(at + 4, count, true)
    if (type === 3 && count === 1) head.setUint16(at + 8, value, true)
    else head.setUint32(at + 8, value, true)
    at += 12
  }
  // One or two shorts stand in the tag itself; more lie elsewhere.
  const shorts = (id: number, value: number, place: number): void => {
    for (let i = 0; i < channels; i++) head.setUint16(place + i * 2, value, true)
    tag(id, 3, channels, channels === 1 ? value : channels === 2 ? value | (value << 16) : place)
  }
  tag(256, 4, 1, width)
  tag(257, 4, 1, height)
  shorts(258, bits, bitsAt)
  tag(259, 3, 1, 1)
  tag(262, 3, 1, channels < 3 ? 1 : 2)
  tag(273, 4, strips, strips === 1 ? dataAt : offsetsAt)
  tag(277, 3, 1, channels)
  tag(278, 4, 1, stripRows)
  tag(279, 4, strips, strips === 1 ? rowBytes * height : countsAt)
  tag(284, 3, 1, 1)
  tag(296, 3, 1, 1)
  if (alpha) tag(338, 3, 1, 2)
  shorts(339, float ? 3 : 1, formatAt)
  for (let s = 0; s < strips; s++) {
    head.setUint32(offsetsAt + s * 4, dataAt + s * stripRows * rowBytes, true)
    head.setUint32(countsAt + s * 4, Math.min(stripRows, height - s * stripRows) * rowBytes, true)
  }
  return new Uint8Array(head.buffer)
}

const tiffShape = ({ depth: { bits, float }, ...shape }: FileShape): TiffShape => ({ ...shape, bits, float })

const tiff: FileFormat = {
  name: 'tiff',
  title: 'TIFF',
  mime: 'image/tiff',
  alsoKnownAs: ['tif'],
  isOf: (head) => beginsWith(head, 0x49, 0x49, 42, 0) || beginsWith(head, 0x4d, 0x4d, 0, 42),
  reader: 'native',
  lossy: false,
  write: {
    depths: [SIXTEEN, EIGHT, FLOAT],
    grey: true,
    alpha: true,
    blockRows: 1,
    code: (rows, shape, band) => tiffCoder(tiffShape(shape)).code(rows, band),
    start: (shape, to) => tiffCoder(tiffShape(shape)).start(to),
  },
}
export default tiff
