import type { RowWriter, ByteWriter } from './byte-writer'

/**
 * Writes float32 rows as a NumPy array of shape (height, width, channels), or (height, width) for one channel.
 * Source: NumPy Enhancement Proposal 1, format version 1.0.
 */
export function startNpy(
  { width, height, channels }: { width: number; height: number; channels: number },
  writer: ByteWriter,
): RowWriter<Float32Array> {
  const shape = channels === 1 ? `${height}, ${width}` : `${height}, ${width}, ${channels}`
  const text = `{'descr': '<f4', 'fortran_order': False, 'shape': (${shape}), }`
  const padded = text.padEnd(Math.ceil((text.length + 11) / 64) * 64 - 11) + '\n'
  const header = new Uint8Array(10 + padded.length)
  header.set([0x93, 0x4e, 0x55, 0x4d, 0x50, 0x59, 1, 0, padded.length & 255, padded.length >> 8])
  for (let i = 0; i < padded.length; i++) header[10 + i] = padded.charCodeAt(i)
  writer.append(header)
  let left = height
  return {
    rows: (values) => {
      left -= values.length / (width * channels)
      writer.append(littleEndian(values))
    },
    end: () => {
      if (left !== 0) throw new RangeError(`${left} rows are missing`)
    },
  }
}

const IS_LITTLE = new Uint8Array(Uint16Array.of(1).buffer)[0] === 1

/** Values as little-endian bytes on any machine, in the width of their array. */
export function littleEndian(values: Uint8Array | Uint16Array | Float32Array): Uint8Array {
  if (values instanceof Uint8Array) return values
  if (IS_LITTLE) return new Uint8Array(values.buffer, values.byteOffset, values.byteLength).slice()
  const size = values.BYTES_PER_ELEMENT
  const bytes = new Uint8Array(values.length * size)
  const view = new DataView(bytes.buffer)
  if (values instanceof Uint16Array) for (let i = 0; i < values.length; i++) view.setUint16(i * size, values[i]!, true)
  else for (let i = 0; i < values.length; i++) view.setFloat32(i * size, values[i]!, true)
  return bytes
}
