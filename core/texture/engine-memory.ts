import { isTangentNormal } from '../document/channels'
import type { BlockKind } from '../kernels/blocks/blocks'
import { BLOCK_BYTES } from '../kernels/blocks/blocks'
import { mipSides } from './bytes/mip-sides'
import { holdsFloats } from './format-registry'

/** Bytes a file takes in a graphics card, with its mip chain: as plain texels, and as 4 × 4 blocks. */
export interface EngineMemory {
  readonly plain: number
  /** Null where blocks cannot hold it: floats, and sides that are no multiple of 4. */
  readonly blocks: number | null
  /** Which block format would be taken. */
  readonly format: 'BC1' | 'BC3' | 'BC4' | 'BC5' | 'BC7' | null
}

/** What of a file counts here; packed files and those of a record are both so. */
export interface EngineFile {
  readonly format: string
  readonly bits: number
  readonly slots: readonly object[]
  /** Blocks that it is delivered in: they are what it takes, whatever would suit it. */
  readonly block?: BlockKind
}

/**
 * What a packed file takes in an engine.
 * Plain texels: engines pad three channels to four. Blocks: BC4 for one channel, BC5 for normals (z is computed back),
 * BC7 for the rest (common practice).
 */
export function engineMemory(file: EngineFile, width: number, height: number): EngineMemory {
  const sides = mipSides(width, height)
  const channels = file.slots.length === 1 ? 1 : 4
  const texels = sides.reduce((sum, [w, h]) => sum + w * h, 0)
  const plain = (texels * channels * file.bits) / 8
  if (holdsFloats(file) || width % 4 !== 0 || height % 4 !== 0) return { plain, blocks: null, format: null }
  const normal =
    file.slots.length === 3 && file.slots.every((slot) => 'channel' in slot && isTangentNormal(String(slot.channel)))
  const kind: BlockKind = file.block ?? (channels === 1 ? 'bc4' : normal ? 'bc5' : 'bc7')
  const format = kind.toUpperCase() as NonNullable<EngineMemory['format']>
  const blocks = sides.reduce((sum, [w, h]) => sum + Math.ceil(w / 4) * Math.ceil(h / 4), 0)
  return { plain, blocks: blocks * BLOCK_BYTES[kind], format }
}
