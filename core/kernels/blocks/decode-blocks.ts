import { MODES, WEIGHTS, anchorOf, subsetOf } from './bc7-modes'
import type { BlockKind } from './blocks'
import { BLOCK_BYTES, BLOCK_CHANNELS, SIDE, TEXELS, blocksAlong } from './blocks'

/** Decodes one block into 16 texels of the kind's channels. */
type DecodeBlock = (bytes: Uint8Array, at: number, out: Uint8Array) => void

const DECODERS: Readonly<Record<BlockKind, DecodeBlock>> = {
  bc1: (bytes, at, out) => decodeColour(bytes, at, out, true),
  bc3: (bytes, at, out) => {
    decodeColour(bytes, at + 8, out, false)
    decodeGrey(bytes, at, out, 3, 4)
  },
  bc4: (bytes, at, out) => decodeGrey(bytes, at, out, 0, 1),
  bc5: (bytes, at, out) => {
    decodeGrey(bytes, at, out, 0, 2)
    decodeGrey(bytes, at + 8, out, 1, 2)
  },
  bc7: decodeBc7,
}

/**
 * A picture out of its blocks: interleaved channels of 0–255, first row first; texels beyond its border are left out. Shape: the
 * bytes of `blockBytes`. Source: Khronos Data Format Specification 1.3, chapters 18 (BC1, BC3), 19 (BC4, BC5) and 20 (BC7).
 */
export function decodeBlocks(kind: BlockKind, bytes: Uint8Array, width: number, height: number): Uint8Array {
  const channels = BLOCK_CHANNELS[kind]
  const decode = DECODERS[kind]
  const out = new Uint8Array(width * height * channels)
  const block = new Uint8Array(TEXELS * channels)
  const across = blocksAlong(width)
  for (let by = 0; by < blocksAlong(height); by++)
    for (let bx = 0; bx < across; bx++) {
      decode(bytes, (by * across + bx) * BLOCK_BYTES[kind], block)
      const wide = Math.min(SIDE, width - bx * SIDE)
      for (let y = 0; y < Math.min(SIDE, height - by * SIDE); y++)
        out.set(
          block.subarray(y * SIDE * channels, (y * SIDE + wide) * channels),
          ((by * SIDE + y) * width + bx * SIDE) * channels,
        )
    }
  return out
}

/** Five or six bits spread over eight. */
export const spread5 = (v: number): number => (v << 3) | (v >> 2)
export const spread6 = (v: number): number => (v << 2) | (v >> 4)

/** Colour of BC1: endpoints of 5, 6 and 5 bits; of four tones, or of three and nothing where the first is not the larger. */
function decodeColour(bytes: Uint8Array, at: number, out: Uint8Array, hasHoles: boolean): void {
  const ends = [bytes[at]! | (bytes[at + 1]! << 8), bytes[at + 2]! | (bytes[at + 3]! << 8)] as const
  const [a, b] = ends.map((end) => [spread5(end >> 11), spread6((end >> 5) & 63), spread5(end & 31)]) as [
    number[],
    number[],
  ]
  const four = !hasHoles || ends[0] > ends[1]
  for (let i = 0; i < TEXELS; i++) {
    const index = (bytes[at + 4 + (i >> 2)]! >> (2 * (i & 3))) & 3
    for (let c = 0; c < 3; c++) {
      const [p, q] = [a[c]!, b[c]!]
      out[i * 4 + c] =
        index === 0
          ? p
          : index === 1
            ? q
            : four
              ? Math.floor(index === 2 ? (2 * p + q + 1) / 3 : (p + 2 * q + 1) / 3)
              : index === 2
                ? (p + q + 1) >> 1
                : 0
    }
    out[i * 4 + 3] = !four && index === 3 ? 0 : 255
  }
}

/** The eight tones between two ends; of six, with 0 and 255, where the first is not the larger. */
export function greyTones(a: number, b: number): number[] {
  const between = (of: number): number[] =>
    Array.from({ length: of - 1 }, (_, i) => Math.floor((a * (of - 1 - i) + b * (i + 1) + (of >> 1)) / of))
  return a > b ? [a, b, ...between(7)] : [a, b, ...between(5), 0, 255]
}

/** One channel as BC4 has it: two ends and sixteen indices of 3 bits. */
function decodeGrey(bytes: Uint8Array, at: number, out: Uint8Array, channel: number, channels: number): void {
  const tones = greyTones(bytes[at]!, bytes[at + 1]!)
  for (let i = 0; i < TEXELS; i++) {
    const bit = 3 * i
    const from = at + 2 + (bit >> 3)
    const two = bytes[from]! | ((bit & 7) > 5 ? bytes[from + 1]! << 8 : 0)
    out[i * channels + channel] = tones[(two >> (bit & 7)) & 7]!
  }
}

/** Reads bits from the lowest on. */
class Bits {
  private place = 0

  constructor(
    private readonly bytes: Uint8Array,
    private readonly at: number,
  ) {}

  take(count: number): number {
    let value = 0
    for (let i = 0; i < count; i++, this.place++)
      value |= ((this.bytes[this.at + (this.place >> 3)]! >> (this.place & 7)) & 1) << i
    return value
  }
}

const blended = (a: number, b: number, weight: number): number => ((64 - weight) * a + weight * b + 32) >> 6

function decodeBc7(bytes: Uint8Array, at: number, out: Uint8Array): void {
  const bits = new Bits(bytes, at)
  let number = 0
  while (number < 8 && bits.take(1) === 0) number++
  const mode = MODES[number]
  // A block without a mode is black and clear.
  if (!mode) return void out.fill(0)
  const partition = bits.take(mode.partitionBits)
  const rotation = bits.take(mode.rotationBits)
  const swapped = bits.take(mode.indexSelectionBits) === 1
  const count = mode.subsets * 2
  const depths = [mode.colourBits, mode.colourBits, mode.colourBits, mode.alphaBits]
  const ends = depths.map((depth) => Array.from({ length: count }, () => bits.take(depth)))
  const lowest = mode.endpointBits
    ? Array.from({ length: count }, () => bits.take(1))
    : mode.sharedBits
      ? Array.from({ length: mode.subsets }, () => bits.take(1)).flatMap((bit) => [bit, bit])
      : null
  const wide = ends.map((values, c) =>
    values.map((value, e) => {
      const depth = depths[c]! + (lowest ? 1 : 0)
      if (depths[c] === 0) return 255
      const whole = (lowest ? (value << 1) | lowest[e]! : value) << (8 - depth)
      return whole | (whole >> depth)
    }),
  )
  const indices = (depth: number, subsets: number): number[] =>
    Array.from({ length: TEXELS }, (_, i) => {
      const isAnchor = anchorOf(subsets, partition, subsetOf(subsets, partition, i)) === i
      return bits.take(isAnchor ? depth - 1 : depth)
    })
  const first = indices(mode.indexBits, mode.subsets)
  const second = mode.secondBits > 0 ? indices(mode.secondBits, 1) : null
  for (let i = 0; i < TEXELS; i++) {
    const subset = subsetOf(mode.subsets, partition, i)
    for (let c = 0; c < 4; c++) {
      const takesSecond = second !== null && (c === 3) !== swapped
      const depth = takesSecond ? mode.secondBits : mode.indexBits
      const weight = WEIGHTS[depth]![(takesSecond ? second : first)[i]!]!
      out[i * 4 + c] = blended(wide[c]![2 * subset]!, wide[c]![2 * subset + 1]!, weight)
    }
    if (rotation > 0) {
      const c = i * 4 + rotation - 1
      ;[out[c], out[i * 4 + 3]] = [out[i * 4 + 3]!, out[c]!]
    }
  }
}
