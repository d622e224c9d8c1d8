/**
 * Where a texel reads elsewhere, in READ_BYTES bytes, the lower bits first. By bits: x and y of the place (20 each, some of them below the
 * point), whether it is mirrored there, the turn from here to there (whether its sine is larger than its cosine, whether each of them is
 * negative, then 12 bits of the smaller one). Kernels write and read the same (kernels/assembly/reads.ts).
 */
export interface Read {
  /** In texels of what is read, (0, 0) the centre of the first. */
  x: number
  y: number
  cosine: number
  sine: number
  /** −1 where it is mirrored, else 1. */
  mirror: number
}

export const READ_BYTES = 7

const BITS = 20
/** What the smaller of sine and cosine is counted in: √½ is the largest number of 12 bits. */
const TURNS = 4095 * Math.SQRT2

/** How many bits of a place lie below the point in a picture of this size, up to 2²⁰ texels. */
export const fractionOf = (width: number, height: number): number =>
  BITS - (32 - Math.clz32(Math.max(width, height) - 1))

/** How many there are. */
export const readCount = (reads: Uint8Array): number => reads.length / READ_BYTES

/** Writes a read whose place lies in the picture, rounded to what its bits hold. */
export function packRead(reads: Uint8Array, i: number, fraction: number, read: Readonly<Read>): void {
  const x = Math.floor(read.x * 2 ** fraction + 0.5)
  const y = Math.floor(read.y * 2 ** fraction + 0.5)
  const [cosine, sine] = [Math.abs(read.cosine), Math.abs(read.sine)]
  const turn = (read.mirror < 0 ? 1 : 0) | (sine > cosine ? 2 : 0) | (read.cosine < 0 ? 4 : 0) | (read.sine < 0 ? 8 : 0)
  const low = x | (y << BITS)
  const high = turn | (Math.floor(Math.min(cosine, sine) * TURNS + 0.5) << 4)
  const at = i * READ_BYTES
  reads[at] = low
  reads[at + 1] = low >> 8
  reads[at + 2] = low >> 16
  reads[at + 3] = low >> 24
  reads[at + 4] = y >> 12
  reads[at + 5] = high
  reads[at + 6] = high >> 8
}

export const newRead = (): Read => ({ x: 0, y: 0, cosine: 1, sine: 0, mirror: 1 })

/** Reads it back into `out`. */
export function unpackRead(reads: Uint8Array, i: number, fraction: number, out: Read): Read {
  const at = i * READ_BYTES
  const middle = reads[at + 2]!
  const high = reads[at + 5]! | (reads[at + 6]! << 8)
  const unit = 1 / 2 ** fraction
  out.x = (reads[at]! | (reads[at + 1]! << 8) | ((middle & 15) << 16)) * unit
  out.y = ((middle >> 4) | (reads[at + 3]! << 4) | (reads[at + 4]! << 12)) * unit
  const smaller = (high >> 4) / TURNS
  const larger = Math.sqrt(1 - smaller * smaller)
  const isSteep = (high & 2) !== 0
  const cosine = isSteep ? smaller : larger
  const sine = isSteep ? larger : smaller
  out.cosine = high & 4 ? -cosine : cosine
  out.sine = high & 8 ? -sine : sine
  out.mirror = high & 1 ? -1 : 1
  return out
}
