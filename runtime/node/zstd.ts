import { compress, decompress, init } from '@bokuweb/zstd-wasm'
import type { CompressZstd } from '#core/texture/bytes/zstd'

/** The level that zstd itself takes for usual. */
const LEVEL = 3

let ready: Promise<void> | undefined

export const compressZstd: CompressZstd = async (bytes) => {
  await (ready ??= init())
  return compress(bytes, LEVEL)
}

/** How many bytes a frame says that it holds; null where it does not. Source: RFC 8878, section 3.1.1.1. */
function promisedLength(bytes: Uint8Array): number | null {
  const flags = bytes[4] ?? 0
  const isSingle = (flags >> 5) & 1
  const at = 5 + (1 - isSingle) + [0, 1, 2, 4][flags & 3]!
  const size = [isSingle, 2, 4, 8][flags >> 6]!
  if (size === 0 || at + size > bytes.length) return null
  let length = 0
  for (let i = size - 1; i >= 0; i--) length = length * 256 + bytes[at + i]!
  return size === 2 ? length + 256 : length
}

/** Throws where the bytes are no zstd, or come to another length. */
export async function decompressZstd(bytes: Uint8Array, length: number): Promise<Uint8Array> {
  await (ready ??= init())
  const promised = promisedLength(bytes)
  // A frame that promises more would take the memory for it.
  if (promised !== null && promised !== length) throw new Error(`expected ${length} bytes but zstd has ${promised}`)
  const made = decompress(bytes, { defaultHeapSize: length })
  if (made.length !== length) throw new Error(`expected ${length} bytes but zstd gave ${made.length}`)
  return made
}
