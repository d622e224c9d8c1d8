import { EIGHT, SIXTEEN, beginsWith } from '../file-format'
import type { FileFormat } from '../file-format'
import { Deflate } from 'pako'
import type { RowWriter, ByteWriter } from '../bytes/byte-writer'

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

function chunk(writer: ByteWriter, name: string, data: Uint8Array): void {
  const bytes = new Uint8Array(data.length + 12)
  const view = new DataView(bytes.buffer)
  view.setUint32(0, data.length)
  for (let i = 0; i < 4; i++) bytes[4 + i] = name.charCodeAt(i)
  bytes.set(data, 8)
  view.setUint32(8 + data.length, crc32(bytes.subarray(4, 8 + data.length)))
  writer.append(bytes)
}

/**
 * Writes a PNG row by row; memory stays at a few rows whatever the size.
 * Rows are Uint8Array for 8 bits, Uint16Array for 16. Source: W3C Portable Network Graphics (Third Edition), with the
 * filter choice by least sum of absolute differences of section 12.7. Own code over pako because the packages at
 * hand want the whole picture at once, and native encoders change their bytes between versions, so that a delivery
 * could not be made again bit by bit. (fflate's streams were tried: small pictures came out damaged.)
 */
export function startPng(shape: PngShape, writer: ByteWriter): RowWriter<Uint8Array | Uint16Array> {
  const { width, height, channels, bits } = shape
  const texel = (channels * bits) / 8
  const stride = width * texel
  writer.append(Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a))
  const header = new DataView(new ArrayBuffer(13))
  header.setUint32(0, width)
  header.setUint32(4, height)
  header.setUint8(8, bits)
  header.setUint8(9, COLOUR_TYPE[channels])
  chunk(writer, 'IHDR', new Uint8Array(header.buffer))
  if (shape.srgb) chunk(writer, 'sRGB', Uint8Array.of(0))
  const zlib = new Deflate({ level: 6, chunkSize: 1 << 16 })
  zlib.onData = (data: Uint8Array) => chunk(writer, 'IDAT', data)
  let written = 0
  let above = new Uint8Array(stride)
  let row = new Uint8Array(stride)
  const filtered = Array.from({ length: 5 }, (_, type) => {
    const line = new Uint8Array(stride + 1)
    line[0] = type
    return line
  })
  return {
    rows: (values) => {
      const count = values.length / (width * channels)
      for (let y = 0; y < count; y++) {
        const from = y * width * channels
        for (let i = 0; i < width * channels; i++) {
          const v = values[from + i]!
          if (bits === 8) row[i] = v
          else {
            row[2 * i] = v >>> 8
            row[2 * i + 1] = v & 255
          }
        }
        zlib.push(bestFilter(row, above, texel, filtered), false)
        ;[above, row] = [row, above]
      }
      written += count
    },
    end: () => {
      if (written !== height) throw new RangeError(`expected ${height} rows but received ${written}`)
      zlib.push(new Uint8Array(0), true)
      chunk(writer, 'IEND', new Uint8Array(0))
    },
  }
}

function bestFilter(row: Uint8Array, above: Uint8Array, texel: number, lines: Uint8Array[]): Uint8Array {
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
    none[i + 1] = v
    sub[i + 1] = d1
    up[i + 1] = d2
    average[i + 1] = d3
    paeth[i + 1] = d4
    // Bytes count as signed.
    s0 += Math.abs((v << 24) >> 24)
    s1 += Math.abs((d1 << 24) >> 24)
    s2 += Math.abs((d2 << 24) >> 24)
    s3 += Math.abs((d3 << 24) >> 24)
    s4 += Math.abs((d4 << 24) >> 24)
  }
  const sums = [s0, s1, s2, s3, s4]
  return lines[sums.indexOf(Math.min(...sums))]!
}

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
    start: ({ depth, ...shape }, to) => startPng({ ...shape, bits: depth.bits === 16 ? 16 : 8 }, to),
  },
}
export default png
