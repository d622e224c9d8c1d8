import { EIGHT, SIXTEEN, beginsWith } from '../file-format'
import type { FileFormat, FileShape } from '../file-format'
import type { RowWriter, ByteWriter } from '../bytes/byte-writer'
import type { Deflate } from '../bytes/deflate'
import { ZLIB_HEAD, adler32, adlerOfBoth, bigEndian, plainDeflate } from '../bytes/deflate'
import type { BandCoder } from '../row-writer'
import { writeRows } from '../row-writer'

export interface PngShape {
  readonly width: number
  readonly height: number
  /** 1 grey, 2 grey and alpha, 3 colour, 4 colour and alpha. */
  readonly channels: 1 | 2 | 3 | 4
  readonly bits: 8 | 16
  /** Marks the file as sRGB-encoded; data files carry no mark. */
  readonly srgb: boolean
}

const COLOUR_TYPE = { 1: 0, 2: 4, 3: 2, 4: 6 } as const

const CRC = Uint32Array.from({ length: 256 }, (_, n) => {
  let c = n
  for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
  return c >>> 0
})

function crc32(bytes: Uint8Array): number {
  let c = 0xffffffff
  for (let i = 0; i < bytes.length; i++) c = CRC[(c ^ bytes[i]!) & 255]! ^ (c >>> 8)
  return (c ^ 0xffffffff) >>> 0
}

/** A chunk: its length, name, data and their checksum. */
function chunk(name: string, data: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(data.length + 12)
  const view = new DataView(bytes.buffer)
  view.setUint32(0, data.length)
  for (let i = 0; i < 4; i++) bytes[4 + i] = name.charCodeAt(i)
  bytes.set(data, 8)
  view.setUint32(8 + data.length, crc32(bytes.subarray(4, 8 + data.length)))
  return bytes
}

/**
 * How PNG's rows are compressed. Measured on the maps of the demos: repetitions are worth looking for in 8 bits; the low
 * bytes of 16 are noise, where coding single bytes gives files as small (within a hundredth) at three times the speed.
 */
const HOW = { 8: { level: 3, strategy: 'filtered' }, 16: { level: 1, strategy: 'huffman' } } as const

/**
 * PNG, coded band by band: filtered, and compressed as a piece of one stream that ends at a whole byte; the stream's
 * checksum is put together from those of the pieces. Rows are Uint8Array for 8 bits, Uint16Array for 16.
 * Source: W3C Portable Network Graphics (Third Edition), with the filter choice by least sum of absolute differences of
 * section 12.7; RFC 1950 and 1951. Own code because the packages at hand want the whole picture at once.
 */
export function pngCoder(shape: PngShape, deflate: Deflate = plainDeflate): BandCoder<Uint8Array | Uint16Array> {
  const { width, height, channels, bits } = shape
  const texel = (channels * bits) / 8
  const stride = width * texel
  return {
    blockRows: 1,
    rowLength: width * channels,
    height,
    code: (values, { top, rows, above: before }) => {
      const bytes = bytesOf(values)
      let above = before ? bytesOf(before as typeof values) : new Uint8Array(stride)
      const filtered = new Uint8Array(rows * (stride + 1))
      const lines = Array.from({ length: 5 }, () => new Uint8Array(stride))
      for (let y = 0; y < rows; y++) {
        const row = bytes.subarray(y * stride, (y + 1) * stride)
        const filter = bestFilter(row, above, texel, lines)
        filtered[y * (stride + 1)] = filter
        filtered.set(lines[filter]!, y * (stride + 1) + 1)
        above = row
      }
      const piece = deflate(filtered, { ...HOW[bits], isLast: top + rows === height })
      return { parts: [chunk('IDAT', piece)], check: adler32(filtered), checkedBytes: filtered.length }
    },
    start: (to) => {
      to.append(Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a))
      const header = new DataView(new ArrayBuffer(13))
      header.setUint32(0, width)
      header.setUint32(4, height)
      header.setUint8(8, bits)
      header.setUint8(9, COLOUR_TYPE[channels])
      to.append(chunk('IHDR', new Uint8Array(header.buffer)))
      if (shape.srgb) to.append(chunk('sRGB', Uint8Array.of(0)))
      to.append(chunk('IDAT', ZLIB_HEAD))
      let check = 1
      return {
        add: ({ parts, check: own, checkedBytes }) => {
          parts.forEach((part) => to.append(part))
          check = adlerOfBoth(check, own!, checkedBytes!)
        },
        end: () => {
          to.append(chunk('IDAT', bigEndian(check)))
          to.append(chunk('IEND', new Uint8Array(0)))
        },
      }
    },
  }
}

/** Writes a PNG on this thread, in any number of rows at a time. */
export const startPng = (shape: PngShape, to: ByteWriter): RowWriter<Uint8Array | Uint16Array> =>
  writeRows(pngCoder(shape), to)

/** Values as PNG's bytes: 16 bits have the high byte first. */
function bytesOf(values: Uint8Array | Uint16Array): Uint8Array {
  if (values instanceof Uint8Array) return values
  const bytes = new Uint8Array(2 * values.length)
  for (let i = 0; i < values.length; i++) {
    const v = values[i]!
    bytes[2 * i] = v >>> 8
    bytes[2 * i + 1] = v & 255
  }
  return bytes
}

/** Fills `lines` with the row under each filter, and gives the number of the best. */
function bestFilter(row: Uint8Array, above: Uint8Array, texel: number, lines: Uint8Array[]): number {
  const [none, sub, up, average, paeth] = lines as [Uint8Array, Uint8Array, Uint8Array, Uint8Array, Uint8Array]
  let [s0, s1, s2, s3, s4] = [0, 0, 0, 0, 0]
  for (let i = 0; i < row.length; i++) {
    const v = row[i]!
    const a = i < texel ? 0 : row[i - texel]!
    const b = above[i]!
    const c = i < texel ? 0 : above[i - texel]!
    const pa = Math.abs(b - c)
    const pb = Math.abs(a - c)
    const pc = Math.abs(a + b - 2 * c)
    const d1 = v - a
    const d2 = v - b
    const d3 = v - ((a + b) >> 1)
    const d4 = v - (pa <= pb && pa <= pc ? a : pb <= pc ? b : c)
    none[i] = v
    sub[i] = d1
    up[i] = d2
    average[i] = d3
    paeth[i] = d4
    // Bytes count as signed.
    s0 += Math.abs((v << 24) >> 24)
    s1 += Math.abs((d1 << 24) >> 24)
    s2 += Math.abs((d2 << 24) >> 24)
    s3 += Math.abs((d3 << 24) >> 24)
    s4 += Math.abs((d4 << 24) >> 24)
  }
  const sums = [s0, s1, s2, s3, s4]
  return sums.indexOf(Math.min(...sums))
}

const pngShape = ({ depth, ...shape }: FileShape): PngShape => ({ ...shape, bits: depth.bits === 16 ? 16 : 8 })

const png: FileFormat = {
  name: 'png',
  title: 'PNG',
  mime: 'image/png',
  isOf: (head) => beginsWith(head, 0x89, 0x50, 0x4e, 0x47),
  reader: 'native',
  isMarkedSrgb: (head) => String.fromCharCode(...head.subarray(0, 64)).includes('sRGB'),
  lossy: false,
  write: {
    depths: [EIGHT, SIXTEEN],
    grey: true,
    alpha: true,
    blockRows: 1,
    code: (rows, shape, band, { deflate }) => pngCoder(pngShape(shape), deflate).code(rows as Uint8Array, band),
    start: (shape, to) => pngCoder(pngShape(shape)).start(to),
  },
}
export default png
