import { decodeBlocks } from '../../kernels/blocks/decode-blocks'
import { encodeBlocks } from '../../kernels/blocks/encode-blocks'
import type { BlockKind } from '../../kernels/blocks/blocks'
import { blockBytes } from '../../kernels/blocks/blocks'
import type { FileShape } from '../file-format'

/** Rows of a file's channels as RGBA; a grey in R, G and B. */
function rgbaRows(rows: Uint8Array, channels: FileShape['channels']): Uint8Array {
  if (channels === 4) return rows
  const out = new Uint8Array((rows.length / channels) * 4)
  for (let i = 0; i < out.length / 4; i++) {
    for (let c = 0; c < 3; c++) out[4 * i + c] = rows[i * channels + (channels === 1 ? 0 : c)]!
    out[4 * i + 3] = 255
  }
  return out
}

/** Rows as they stand in a file of blocks, or as RGBA. */
export function codedRows(rows: Uint8Array, { width, channels, block, quality = 'normal' }: FileShape): Uint8Array {
  const rgba = rgbaRows(rows, channels)
  return block ? encodeBlocks(block, rgba, width, rows.length / channels / width, quality) : rgba
}

/** Bytes of a level of so many texels. */
export const levelBytes = ({ block }: Pick<FileShape, 'block'>, width: number, height: number): number =>
  block ? blockBytes(block, width, height) : width * height * 4

/** What a reader finds in a file: its steps after they went through blocks. */
export function blockTexels(
  steps: Uint8Array,
  { width, height, channels, block, quality = 'normal' }: FileShape,
): Uint8Array {
  if (!block) return steps
  const encoded = encodeBlocks(block, rgbaRows(steps, channels), width, height, quality)
  return channelsOf(block, decodeBlocks(block, encoded, width, height), channels)
}

/**
 * Decoded blocks as a file's channels. Of two channels the third is what makes their direction one of length 1, as engines work out the Z
 * of a normal.
 */
export function channelsOf(block: BlockKind, texels: Uint8Array, channels: FileShape['channels']): Uint8Array {
  const from = block === 'bc4' ? 1 : block === 'bc5' ? 2 : 4
  if (from === channels) return texels
  const count = texels.length / from
  const out = new Uint8Array(count * channels)
  for (let i = 0; i < count; i++)
    for (let c = 0; c < channels; c++)
      out[i * channels + c] =
        c < from ? texels[i * from + c]! : c === 2 ? thirdOf(texels[i * from]!, texels[i * from + 1]!) : 255
  return out
}

const thirdOf = (x: number, y: number): number => {
  const [a, b] = [x / 127.5 - 1, y / 127.5 - 1]
  return Math.round(Math.sqrt(Math.max(0, 1 - a * a - b * b)) * 127.5 + 127.5)
}
