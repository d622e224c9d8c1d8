/** Texels along a side of a block, and in one. */
export const SIDE = 4
export const TEXELS = 16

/** Block compressions by the names of Direct3D and of the Khronos Data Format Specification 1.3, chapters 18 to 20. */
export const BLOCK_KINDS = ['bc1', 'bc3', 'bc4', 'bc5', 'bc7'] as const
export type BlockKind = (typeof BLOCK_KINDS)[number]

/** How hard blocks are looked for: each takes several times as long as the one before. */
export const BLOCK_QUALITIES = ['fast', 'normal', 'best'] as const
export type BlockQuality = (typeof BLOCK_QUALITIES)[number]

/** Bytes of a block of 4 × 4 texels. */
export const BLOCK_BYTES: Readonly<Record<BlockKind, 8 | 16>> = { bc1: 8, bc3: 16, bc4: 8, bc5: 16, bc7: 16 }

/** Channels that a block holds, as it is decoded. */
export const BLOCK_CHANNELS: Readonly<Record<BlockKind, 1 | 2 | 4>> = { bc1: 4, bc3: 4, bc4: 1, bc5: 2, bc7: 4 }

/** Blocks along a side of so many texels; the last one may reach over the border. */
export const blocksAlong = (texels: number): number => Math.ceil(texels / SIDE)

/** Bytes of a picture in blocks. */
export const blockBytes = (kind: BlockKind, width: number, height: number): number =>
  blocksAlong(width) * blocksAlong(height) * BLOCK_BYTES[kind]
