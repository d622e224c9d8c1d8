import { FLOAT, HALF, beginsWith } from '../file-format'
import type { FileFormat } from '../file-format'
import { deflate } from 'pako'
import { toHalf } from '../bytes/half'
import type { RowWriter, ByteWriter } from '../bytes/byte-writer'

export interface ExrShape {
  readonly width: number
  readonly height: number
  /** In the order of the rows' interleaved values: "R", "G", "B", "A" or "Y". */
  readonly channels: readonly string[]
  readonly pixel: 'half' | 'float'
}

/** Rows in one compressed block. */
const BLOCK = 16

/**
 * Writes a scan-line OpenEXR with ZIP blocks. Values are linear floats, rounded to nearest for half.
 * Source: "OpenEXR File Layout" and "Technical Introduction" (Academy Software Foundation), ZIP compression with byte
 * reordering and the delta predictor. Own code because the packages at hand write RGBA only and round towards zero.
 */
export function startExr({ width, height, channels, pixel }: ExrShape, writer: ByteWriter): RowWriter<Float32Array> {
  const order = channels.map((name, index) => ({ name, index })).sort((a, b) => (a.name < b.name ? -1 : 1))
  const header = exrHeader(
    width,
    height,
    order.map(({ name }) => name),
    pixel,
  )
  const blocks = Math.ceil(height / BLOCK)
  const table = new DataView(new ArrayBuffer(blocks * 8))
  writer.append(header)
  writer.append(new Uint8Array(table.buffer))
  let at = header.length + table.byteLength
  const size = pixel === 'half' ? 2 : 4
  const block = new DataView(new ArrayBuffer(BLOCK * width * channels.length * size))
  let filled = 0
  let row = 0
  const flush = (): void => {
    const raw = new Uint8Array(block.buffer, 0, filled * width * channels.length * size)
    const packed = deflate(predict(raw), { level: 6 })
    const data = packed.length < raw.length ? packed : raw
    const out = new Uint8Array(8 + data.length)
    const view = new DataView(out.buffer)
    view.setInt32(0, row - filled, true)
    view.setInt32(4, data.length, true)
    out.set(data, 8)
    table.setBigUint64(Math.floor((row - filled) / BLOCK) * 8, BigInt(at), true)
    writer.append(out)
    at += out.length
    filled = 0
  }
  return {
    rows: (values) => {
      const count = values.length / (width * channels.length)
      for (let y = 0; y < count; y++) {
        let to = filled * width * channels.length * size
        for (const { index } of order)
          for (let x = 0; x < width; x++) {
            const v = values[(y * width + x) * channels.length + index]!
            if (pixel === 'half') block.setUint16(to, toHalf(v), true)
            else block.setFloat32(to, v, true)
            to += size
          }
        filled++
        row++
        if (filled === BLOCK || row === height) flush()
      }
    },
    end: () => {
      if (row !== height) throw new RangeError(`expected ${height} rows but received ${row}`)
      writer.patch(header.length, new Uint8Array(table.buffer))
    },
  }
}

/** Even bytes first, then odd ones, each as the difference to the one before. */
function predict(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length)
  const half = (raw.length + 1) >> 1
  for (let i = 0; i < raw.length; i++) out[i & 1 ? half + (i >> 1) : i >> 1] = raw[i]!
  for (let i = out.length - 1; i > 0; i--) out[i] = out[i]! - out[i - 1]! + 384
  return out
}

function exrHeader(width: number, height: number, names: readonly string[], pixel: 'half' | 'float'): Uint8Array {
  const bytes: number[] = []
  const view = new DataView(new ArrayBuffer(4))
  const int = (v: number): void => {
    view.setInt32(0, v, true)
    for (let i = 0; i < 4; i++) bytes.push(view.getUint8(i))
  }
  const real = (v: number): void => {
    view.setFloat32(0, v, true)
    for (let i = 0; i < 4; i++) bytes.push(view.getUint8(i))
  }
  const word = (text: string): void => {
    for (const letter of text) bytes.push(letter.charCodeAt(0))
    bytes.push(0)
  }
  const attribute = (name: string, type: string, length: number): void => {
    word(name)
    word(type)
    int(length)
  }
  int(20000630)
  int(2)
  attribute(
    'channels',
    'chlist',
    names.reduce((sum, name) => sum + name.length + 17, 1),
  )
  for (const name of names) {
    word(name)
    int(pixel === 'half' ? 1 : 2)
    int(0)
    int(1)
    int(1)
  }
  bytes.push(0)
  attribute('compression', 'compression', 1)
  bytes.push(3)
  for (const name of ['dataWindow', 'displayWindow']) {
    attribute(name, 'box2i', 16)
    for (const v of [0, 0, width - 1, height - 1]) int(v)
  }
  attribute('lineOrder', 'lineOrder', 1)
  bytes.push(0)
  attribute('pixelAspectRatio', 'float', 4)
  real(1)
  attribute('screenWindowCenter', 'v2f', 8)
  real(0)
  real(0)
  attribute('screenWindowWidth', 'float', 4)
  real(1)
  bytes.push(0)
  return Uint8Array.from(bytes)
}

const exr: FileFormat = {
  name: 'exr',
  title: 'EXR',
  mime: 'image/x-exr',
  isOf: (head) => beginsWith(head, 0x76, 0x2f, 0x31, 0x01),
  reader: 'exr',
  lossy: false,
  write: {
    depths: [HALF, FLOAT],
    grey: true,
    alpha: true,
    start: ({ width, height, channels, depth }, to) =>
      startExr(
        {
          width,
          height,
          channels: channels === 1 ? ['Y'] : ['R', 'G', 'B', 'A'].slice(0, channels),
          pixel: depth.bits === 32 ? 'float' : 'half',
        },
        to,
      ),
  },
}
export default exr
