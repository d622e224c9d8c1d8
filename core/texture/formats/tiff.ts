import { littleEndian } from './npy'
import type { RowWriter, Sink } from './byte-writer'

/**
 * Writes a baseline TIFF of float32 values, uncompressed, one strip a row.
 * Source: TIFF Revision 6.0 (1992), section 2 and SampleFormat of section 19. Own code: a package writes the whole
 * picture at once and adds map-projection tags.
 */
export function startFloatTiff(
  { width, height, channels }: { width: number; height: number; channels: number },
  sink: Sink,
): RowWriter<Float32Array> {
  const rowBytes = width * channels * 4
  const TAGS = 12
  const afterTags = 8 + 2 + TAGS * 12 + 4
  const bitsAt = afterTags
  const formatAt = bitsAt + channels * 2
  const offsetsAt = formatAt + channels * 2
  const countsAt = offsetsAt + height * 4
  const dataAt = countsAt + height * 4
  const head = new DataView(new ArrayBuffer(dataAt))
  head.setUint16(0, 0x4949, true)
  head.setUint16(2, 42, true)
  head.setUint32(4, 8, true)
  head.setUint16(8, TAGS, true)
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
  shorts(258, 32, bitsAt)
  tag(259, 3, 1, 1)
  tag(262, 3, 1, channels < 3 ? 1 : 2)
  tag(273, 4, height, height === 1 ? dataAt : offsetsAt)
  tag(277, 3, 1, channels)
  tag(278, 4, 1, 1)
  tag(279, 4, height, height === 1 ? rowBytes : countsAt)
  tag(284, 3, 1, 1)
  tag(296, 3, 1, 1)
  shorts(339, 3, formatAt)
  for (let y = 0; y < height; y++) {
    head.setUint32(offsetsAt + y * 4, dataAt + y * rowBytes, true)
    head.setUint32(countsAt + y * 4, rowBytes, true)
  }
  sink.append(new Uint8Array(head.buffer))
  let left = height
  return {
    rows: (values) => {
      left -= values.length / (width * channels)
      sink.append(littleEndian(values))
    },
    end: () => {
      if (left !== 0) throw new RangeError(`${left} rows are missing`)
    },
  }
}
