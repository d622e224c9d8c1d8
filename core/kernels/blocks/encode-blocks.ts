import type { Simd } from '../simd'
import { requiredSimd } from '../simd'
import { MODES, anchorOf, subsetOf } from './bc7-modes'
import type { BlockKind, BlockQuality } from './blocks'
import { SIDE, TEXELS, blockBytes } from './blocks'
import { spread5, spread6 } from './decode-blocks'

/*
 * There is one definition of the encoders, core/kernels/assembly/block-*.ts: WebAssembly gives the same bits everywhere, and plain
 * TypeScript would take minutes for a texture at best.
 */

/** Rounds of least squares and of steps for colour, rounds and reach for greys, and how hard BC7 is looked for, by quality. */
const EFFORT: Readonly<
  Record<
    BlockQuality,
    {
      readonly colour: readonly [rounds: number, climbs: number]
      readonly grey: readonly [rounds: number, reach: number]
      readonly bc7: 0 | 1 | 2
    }
  >
> = {
  fast: { colour: [0, 0], grey: [0, 0], bc7: 0 },
  normal: { colour: [2, 0], grey: [1, 0], bc7: 1 },
  best: { colour: [4, 24], grey: [2, 4], bc7: 2 },
}

/** Bytes that kernels work in, and of a picture that are compressed in one go. */
const WORK = 8192
const PIECE = 1 << 20

/** For each tone of 0–255 the ends whose second tone of four comes nearest to it: both ends, of 5 bits, then of 6. */
let flatEnds: Uint8Array | null = null
function endsOfFlat(): Uint8Array {
  if (flatEnds) return flatEnds
  flatEnds = new Uint8Array(1024)
  for (const [form, spread, count] of [
    [0, spread5, 32],
    [1, spread6, 64],
  ] as const)
    for (let tone = 0; tone < 256; tone++) {
      let min = Infinity
      for (let p = 0; p < count; p++)
        for (let q = 0; q < count; q++) {
          const off = Math.abs(Math.floor((2 * spread(p) + spread(q) + 1) / 3) - tone)
          // Ends that lie together are decoded alike however a decoder rounds.
          const score = off * 1024 + Math.abs(p - q)
          if (score >= min) continue
          min = score
          flatEnds.set([p, q], form * 512 + tone * 2)
        }
    }
  return flatEnds
}

/**
 * What the kernel of BC7 is told (assembly/block-bc7.ts): ten numbers for each mode; for 64 partitions of two and 64 of three subsets the
 * subset of each texel, a byte each; the anchors of their subsets, four bytes each; the texels of their second and third subset as bits.
 */
let tables: Uint8Array | null = null
function tablesOfBc7(): Uint8Array {
  if (tables) return tables
  const partitions = [2, 3].flatMap((subsets) =>
    Array.from({ length: 64 }, (_, partition) => ({
      of: Array.from({ length: TEXELS }, (_, texel) => subsetOf(subsets, partition, texel)),
      anchors: [0, 1, 2, 3].map((subset) => (subset < subsets ? anchorOf(subsets, partition, subset) : 0)),
    })),
  )
  const modes = MODES.flatMap((mode) => [
    ...[mode.subsets, mode.partitionBits, mode.rotationBits, mode.indexSelectionBits, mode.colourBits],
    ...[mode.alphaBits, Number(mode.endpointBits), Number(mode.sharedBits), mode.indexBits, mode.secondBits],
  ])
  const bits = partitions.flatMap(({ of }) =>
    [1, 2].map((subset) => of.reduce((all, own, texel) => all | (own === subset ? 1 << texel : 0), 0)),
  )
  const bytes = (values: readonly number[]): Uint8Array => new Uint8Array(Int32Array.from(values).buffer)
  const parts = [
    bytes(modes),
    Uint8Array.from(partitions.flatMap(({ of }) => of)),
    Uint8Array.from(partitions.flatMap(({ anchors }) => anchors)),
    bytes(bits),
  ]
  tables = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0))
  let at = 0
  for (const part of parts) {
    tables.set(part, at)
    at += part.length
  }
  return tables
}

type Picture = readonly [rgba: number, width: number, rows: number]
type Effort = (typeof EFFORT)[BlockQuality]
/** Puts tables into scratch memory; what compresses a picture then. */
type Encoder = (twin: Simd, effort: Effort) => (picture: Picture, work: number, out: number) => void

/** Puts a table into scratch memory. */
function placed(twin: Simd, table: Uint8Array): number {
  const at = twin.take(table.length / 4)
  twin.bytes(at, table.length).set(table)
  return at
}

function encodesColours(withAlpha: boolean): Encoder {
  return (twin, { colour, grey }) => {
    const flat = placed(twin, endsOfFlat())
    return (picture, work, out) =>
      twin.assembly.encodeColours(...picture, withAlpha ? 1 : 0, ...colour, ...grey, flat, work, out)
  }
}

function encodesGreys(channels: 1 | 2): Encoder {
  return (twin, { grey }) =>
    (picture, work, out) =>
      twin.assembly.encodeGreys(...picture, channels, ...grey, work, out)
}

const ENCODERS: Readonly<Record<BlockKind, Encoder>> = {
  bc1: encodesColours(false),
  bc3: encodesColours(true),
  bc4: encodesGreys(1),
  bc5: encodesGreys(2),
  bc7: (twin, { bc7 }) => {
    const told = placed(twin, tablesOfBc7())
    return (picture, work, out) => twin.assembly.encodeBc7(...picture, bc7, told, work, out)
  },
}

/**
 * Rows of a picture in blocks. Shape: RGBA bytes, first row first; at the right and at the foot the last texels fill blocks that reach
 * over the border. BC4 takes R, BC5 R and G.
 */
export function encodeBlocks(
  kind: BlockKind,
  rgba: Uint8Array,
  width: number,
  rows: number,
  quality: BlockQuality,
): Uint8Array {
  const twin = requiredSimd('Blocks are compressed')
  const encoded = new Uint8Array(blockBytes(kind, width, rows))
  // So many rows at a time, whole rows of blocks, as fit a piece of scratch memory.
  const some = Math.max(1, Math.floor(PIECE / (width * 4 * SIDE))) * SIDE
  twin.scratch(() => {
    const [from, work] = [twin.take(some * width), twin.take(WORK / 4)]
    const out = twin.take(blockBytes(kind, width, some) / 4)
    const encode = ENCODERS[kind](twin, EFFORT[quality])
    for (let y = 0; y < rows; y += some) {
      const own = rgba.subarray(y * width * 4, Math.min(rows, y + some) * width * 4)
      twin.bytes(from, own.length).set(own)
      encode([from, width, own.length / 4 / width], work, out)
      const bytes = blockBytes(kind, width, own.length / 4 / width)
      encoded.set(twin.bytes(out, bytes), blockBytes(kind, width, y))
    }
  })
  return encoded
}
