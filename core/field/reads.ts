/**
 * Where a texel reads elsewhere, in 8 bytes: two numbers each, the lower bits first. By bits: x and y of the place (20 each, some of them
 * below the point), whether it is mirrored there, the turn from here to there (whether its sine is larger than its cosine, whether each of
 * them is negative, then 20 bits of the smaller one). Kernels write and read the same (kernels/assembly/reads.ts).
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

const BITS = 20
const ONE = 2 ** BITS

/** How many bits of a place lie below the point in a picture of this size, up to 2²⁰ texels. */
export const fractionOf = (width: number, height: number): number =>
  BITS - (32 - Math.clz32(Math.max(width, height) - 1))

/** Writes a read whose place lies in the picture, rounded to what its bits hold. */
export function packRead(reads: Uint32Array, i: number, fraction: number, read: Readonly<Read>): void {
  const x = Math.floor(read.x * 2 ** fraction + 0.5)
  const y = Math.floor(read.y * 2 ** fraction + 0.5)
  const [cosine, sine] = [Math.abs(read.cosine), Math.abs(read.sine)]
  const turn = (read.mirror < 0 ? 1 : 0) | (sine > cosine ? 2 : 0) | (read.cosine < 0 ? 4 : 0) | (read.sine < 0 ? 8 : 0)
  reads[i * 2] = x | (y << BITS)
  reads[i * 2 + 1] = (y >>> 12) | (turn << 8) | (Math.floor(Math.min(cosine, sine) * ONE + 0.5) << 12)
}

export const newRead = (): Read => ({ x: 0, y: 0, cosine: 1, sine: 0, mirror: 1 })

/** Reads it back into `out`. */
export function unpackRead(reads: Uint32Array, i: number, fraction: number, out: Read): Read {
  const low = reads[i * 2]!
  const high = reads[i * 2 + 1]!
  const unit = 1 / 2 ** fraction
  out.x = (low & (ONE - 1)) * unit
  out.y = ((low >>> BITS) | ((high & 255) << 12)) * unit
  const smaller = (high >>> 12) / ONE
  const larger = Math.sqrt(1 - smaller * smaller)
  const isSteep = (high & 512) !== 0
  const cosine = isSteep ? smaller : larger
  const sine = isSteep ? larger : smaller
  out.cosine = high & 1024 ? -cosine : cosine
  out.sine = high & 2048 ? -sine : sine
  out.mirror = high & 256 ? -1 : 1
  return out
}
