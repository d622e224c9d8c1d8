import type { BlockKind, BlockQuality } from './blocks'
import { BLOCK_BYTES, SIDE, TEXELS, blockBytes, blocksAlong } from './blocks'
import { encodeBc7 } from './encode-bc7'
import { encodeColour } from './encode-colour'
import { encodeGrey } from './encode-grey'

const channel = new Uint8Array(TEXELS)

function channelOf(texels: Uint8Array, c: number): Uint8Array {
  for (let i = 0; i < TEXELS; i++) channel[i] = texels[4 * i + c]!
  return channel
}

type EncodeBlock = (texels: Uint8Array, quality: BlockQuality, out: Uint8Array, at: number) => void

const ENCODERS: Readonly<Record<BlockKind, EncodeBlock>> = {
  bc1: encodeColour,
  bc3: (texels, quality, out, at) => {
    encodeGrey(channelOf(texels, 3), quality, out, at)
    encodeColour(texels, quality, out, at + 8)
  },
  bc4: (texels, quality, out, at) => encodeGrey(channelOf(texels, 0), quality, out, at),
  bc5: (texels, quality, out, at) => {
    encodeGrey(channelOf(texels, 0), quality, out, at)
    encodeGrey(channelOf(texels, 1), quality, out, at + 8)
  },
  bc7: encodeBc7,
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
  const out = new Uint8Array(blockBytes(kind, width, rows))
  const texels = new Uint8Array(TEXELS * 4)
  const encode = ENCODERS[kind]
  const across = blocksAlong(width)
  for (let by = 0; by < blocksAlong(rows); by++)
    for (let bx = 0; bx < across; bx++) {
      for (let y = 0; y < SIDE; y++)
        for (let x = 0; x < SIDE; x++) {
          const from = (Math.min(rows - 1, by * SIDE + y) * width + Math.min(width - 1, bx * SIDE + x)) * 4
          const to = (y * SIDE + x) * 4
          for (let c = 0; c < 4; c++) texels[to + c] = rgba[from + c]!
        }
      encode(texels, quality, out, (by * across + bx) * BLOCK_BYTES[kind])
    }
  return out
}
