import type { Simd } from '../../kernels/simd'
import { simd } from '../../kernels/simd'
import { adler32 } from './deflate'

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

/** Checksum of PNG's chunks. Source: W3C Portable Network Graphics (Third Edition), annex D; eight bytes at a time is common practice. */
export function crc32(bytes: Uint8Array): number {
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

/** Rows under their best filters, each with the filter's number before it, and the checksum of all. */
export function filteredRows(
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
