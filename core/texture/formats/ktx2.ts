import type { KTX2Container } from 'ktx-parse'
import { write } from 'ktx-parse'
import { GristError } from '../../errors'
import { mipSides } from '../bytes/mip-sides'
import { EIGHT, beginsWith } from '../file-format'
import type { FileAssembler, FileFormat, FileShape } from '../file-format'
import type { ByteWriter } from '../bytes/byte-writer'
import { blockTexels, codedRows, levelBytes } from '../bytes/block-texels'
import { dataFormat, isSrgbType, vulkanType } from '../bytes/ktx-types'
import type { CompressZstd } from '../bytes/zstd'

/** Puts a KTX2 together. Holds its levels until the end, as the smallest stands first. */
function assembleKtx2(shape: FileShape, to: ByteWriter, compress: CompressZstd): FileAssembler {
  const { width, height } = shape
  const sides = shape.mips ? mipSides(width, height) : [[width, height] as const]
  const levels = sides.map(([w, h]) => new Uint8Array(levelBytes(shape, w, h)))
  let [level, at] = [0, 0]
  const append = (parts: readonly Uint8Array[]): void => {
    for (const part of parts) {
      levels[level]!.set(part, at)
      at += part.length
    }
  }
  return {
    add: ({ parts }) => append(parts),
    addMip: ({ parts }) => {
      level++
      at = 0
      append(parts)
    },
    end: async () => {
      const packed = []
      for (const bytes of levels)
        packed.push({ levelData: await compress(bytes), uncompressedByteLength: bytes.length })
      const container = {
        ...{ vkFormat: vulkanType(shape), typeSize: 1, pixelWidth: width, pixelHeight: height, pixelDepth: 0 },
        ...{ layerCount: 0, faceCount: 1, levelCount: levels.length, supercompressionScheme: 2, levels: packed },
        dataFormatDescriptor: [dataFormat(shape)],
        keyValue: { KTXwriter: 'Amber Grist' },
        globalData: null,
      }
      to.append(write(container as KTX2Container, { keepWriter: true }))
    },
  }
}

/**
 * KTX2: the same blocks or RGBA bytes as DDS, compressed once more by zstd, and marked as sRGB or not. Source: Khronos KTX File Format
 * Specification 2.0; the container is written by ktx-parse.
 */
const ktx2: FileFormat = {
  name: 'ktx2',
  title: 'KTX2',
  mime: 'image/ktx2',
  isOf: (head) => beginsWith(head, 0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb),
  reader: 'ktx2',
  isMarkedSrgb: (head) => isSrgbType(head),
  lossy: false,
  write: {
    depths: [EIGHT],
    grey: true,
    alpha: true,
    blockRows: 4,
    holdsBlocks: true,
    code: (rows, shape) => ({ parts: [codedRows(rows as Uint8Array, shape)] }),
    start: (shape, to, { compressZstd }) => {
      if (!compressZstd) throw new GristError('packing-invalid', 'KTX2 files cannot be written here.')
      return assembleKtx2(shape, to, compressZstd)
    },
    readBack: async (steps, shape) => blockTexels(steps, shape),
  },
}
export default ktx2
