import { EIGHT, SIXTEEN, beginsWith } from '../file-format'
import type { FileFormat, FileShape } from '../file-format'
import type { RowWriter, ByteWriter } from '../bytes/byte-writer'
import type { Deflate } from '../bytes/deflate'
import { ZLIB_HEAD, adler32, adlerOfBoth, bigEndian, plainDeflate } from '../bytes/deflate'
import type { BandCoder } from '../row-writer'
import { writeRows } from '../row-writer'
import type { Simd } from '../../kernels/simd'
import { simd } from '../../kernels/simd'

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

/** Eight tables, so that eight bytes go in one step; the first is that of single bytes. */
const CRC = ((): Uint32Array => {
  const tables = new Uint32Array(8 * 256)
  for (let n = 0; n < 256; n++) {
    let c = n
    for (let k = 0; k < 8; k++) c = c & 1 ? 0xedb88320 ^ (c >>> 1) : c >>> 1
    tables[n] = c >>> 0
  }
  for (let n = 256; n < tables.length; n++) tables[n] = (tables[n - 256]! >>> 8) ^ tables[tables[n - 256]! & 255]!
  return tables
})()

/** Fewest bytes that are worth bringing to the twin. */
const FEW = 256

function crc32(bytes: Uint8Array): number {
  const twin = bytes.length < FEW ? null : simd()
  if (twin)
    return twin.scratch(() => {
      const [tables, at, out] = [CRC.length, Math.ceil(bytes.length / 4) + 4, 1].map((count) => twin.take(count)) as [
        number,
        number,
        number,
      ]
      twin.ints(tables, CRC.length).set(CRC)
      new Uint8Array(twin.shared.buffer, at, bytes.length).set(bytes)
      twin.assembly.crc(at, bytes.length, tables, out)
      return twin.ints(out, 1)[0]! >>> 0
    })
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
 * How PNG's rows are compressed: single bytes and runs of one. Measured on the maps of the demos against looking for all
 * repetitions (level 6): files 0 to 9 % larger, in a third to an eighth of the time; flat maps stay a few kB.
 */
const HOW = { level: 1, strategy: 'rle' } as const

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
    code: (values, { top, rows, above }) => {
      const filtered = filteredRows(values, above as typeof values | null, rows, stride, texel)
      const piece = deflate(filtered.bytes, { ...HOW, isLast: top + rows === height })
      return { parts: [chunk('IDAT', piece)], check: filtered.check, checkedBytes: filtered.bytes.length }
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

/** Rows under their best filters, each with the filter's number before it, and the checksum of all. */
function filteredRows(
  values: Uint8Array | Uint16Array,
  before: Uint8Array | Uint16Array | null,
  rows: number,
  stride: number,
  texel: number,
): { readonly bytes: Uint8Array; readonly check: number } {
  const twin = simd()
  if (twin) return twin.scratch(() => filteredBySimd(twin, values, before, rows, stride, texel))
  const bytes = bytesOf(values)
  let above = before ? bytesOf(before) : new Uint8Array(stride)
  const filtered = new Uint8Array(rows * (stride + 1))
  const lines = Array.from({ length: 5 }, () => new Uint8Array(stride))
  for (let y = 0; y < rows; y++) {
    const row = bytes.subarray(y * stride, (y + 1) * stride)
    const filter = bestFilter(row, above, texel, lines)
    filtered[y * (stride + 1)] = filter
    filtered.set(lines[filter]!, y * (stride + 1) + 1)
    above = row
  }
  return { bytes: filtered, check: adler32(filtered) }
}

/** Zeros before a row and room after it, so that whole vectors can be read. */
const MARGIN = 16

function filteredBySimd(
  twin: Simd,
  values: Uint8Array | Uint16Array,
  before: Uint8Array | Uint16Array | null,
  rows: number,
  stride: number,
  texel: number,
): { readonly bytes: Uint8Array; readonly check: number } {
  const { assembly } = twin
  const words = Math.ceil(stride / 4) + 2 * MARGIN
  const size = rows * (stride + 1)
  const [first, second, plain, out] = [words, words, words, Math.ceil(size / 4) + MARGIN].map((count) =>
    twin.take(count),
  ) as [number, number, number, number]
  for (const at of [first, second]) twin.floats(at, words).fill(0)
  let [row, above] = [first + MARGIN, second + MARGIN]
  const view = new Uint8Array(twin.shared.buffer)
  const bring = (from: Uint8Array | Uint16Array, to: number): void => {
    const bytes = new Uint8Array(from.buffer, from.byteOffset, from.byteLength)
    if (from instanceof Uint8Array) return view.set(bytes, to)
    view.set(bytes, plain)
    assembly.swapBytes(plain, to, stride)
  }
  if (before) bring(before, above)
  const length = values.length / rows
  for (let y = 0; y < rows; y++) {
    bring(values.subarray(y * length, (y + 1) * length), row)
    // What a swap wrote beyond the row is no part of it.
    view.fill(0, row + stride, row + stride + MARGIN)
    assembly.filterRow(row, above, texel, out + y * (stride + 1), stride)
    ;[row, above] = [above, row]
  }
  assembly.adler(out, size, plain)
  return { bytes: view.slice(out, out + size), check: twin.ints(plain, 1)[0]! >>> 0 }
}

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
