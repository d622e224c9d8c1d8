import { Deflate as Pako } from 'pako'
import { simd } from '../../kernels/simd'

/** How hard to look for repetitions, and what for; see zlib's deflateInit2. */
export interface DeflateHow {
  readonly level: number
  readonly strategy: 'default' | 'filtered' | 'huffman' | 'rle'
  /** Ends the stream; else it ends at a whole byte, so that the next piece can follow. */
  readonly isLast: boolean
}

/** Raw DEFLATE (RFC 1951) of a piece of a stream, apart from the pieces before it. */
export type Deflate = (bytes: Uint8Array, how: DeflateHow) => Uint8Array

/** Numbers of zlib's strategies and flushes. */
const STRATEGY = { default: 0, filtered: 1, huffman: 2, rle: 3 } as const
const SYNC_FLUSH = 2
const FINISH = 4

/** DEFLATE by pako: the same bytes everywhere, six times slower than the platform's. */
export const plainDeflate: Deflate = (bytes, { level, strategy, isLast }) => {
  const parts: Uint8Array[] = []
  const pako = new Pako({ raw: true, level: level as 6, strategy: STRATEGY[strategy] })
  pako.onData = (part: Uint8Array) => void parts.push(part)
  pako.push(bytes, isLast ? FINISH : SYNC_FLUSH)
  return joined(parts)
}

/** Byte arrays one after the other. */
export function joined(parts: readonly Uint8Array[]): Uint8Array {
  if (parts.length === 1) return parts[0]!
  const all = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0))
  let at = 0
  for (const part of parts) {
    all.set(part, at)
    at += part.length
  }
  return all
}

const BASE = 65521
/** Bytes after which sums are brought below the base; they stay whole numbers until then. */
const RUN = 3800

/** Checksum of RFC 1950. */
export function adler32(bytes: Uint8Array): number {
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const [at, out] = [twin.take(bytes.length / 4 + 1), twin.take(1)]
      twin.bytes(at, bytes.length).set(bytes)
      twin.assembly.adler(at, bytes.length, out)
      return new Uint32Array(twin.shared.buffer, out, 1)[0]!
    })
  let a = 1
  let b = 0
  for (let at = 0; at < bytes.length; at += RUN) {
    const end = Math.min(bytes.length, at + RUN)
    for (let i = at; i < end; i++) b += a += bytes[i]!
    a %= BASE
    b %= BASE
  }
  return (b * 65536 + a) >>> 0
}

/** The checksum of two runs of bytes together, by theirs and the second one's length. Source: zlib's adler32_combine. */
export function adlerOfBoth(first: number, second: number, bytes: number): number {
  const [a1, b1] = [first & 0xffff, first >>> 16]
  const [a2, b2] = [second & 0xffff, second >>> 16]
  const a = (a1 + a2 + BASE - 1) % BASE
  const b = (b1 + b2 + (bytes % BASE) * (a1 + BASE - 1)) % BASE
  return (b * 65536 + a) >>> 0
}

/** A whole zlib stream (RFC 1950). */
export function zlibOf(bytes: Uint8Array, deflate: Deflate, how: Omit<DeflateHow, 'isLast'>): Uint8Array {
  const check = adler32(bytes)
  return joined([ZLIB_HEAD, deflate(bytes, { ...how, isLast: true }), bigEndian(check)])
}

/** What a zlib stream begins with: DEFLATE over 32 kB; 0x7801 is a multiple of 31. */
export const ZLIB_HEAD = Uint8Array.of(0x78, 0x01)

export const bigEndian = (word: number): Uint8Array =>
  Uint8Array.of(word >>> 24, (word >>> 16) & 255, (word >>> 8) & 255, word & 255)
