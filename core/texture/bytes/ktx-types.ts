import type { KTX2BasicFormatSample, KTX2Container } from 'ktx-parse'
import type { BlockKind } from '../../kernels/blocks/blocks'
import { BLOCK_BYTES } from '../../kernels/blocks/blocks'
import type { FileShape } from '../file-format'

/** Numbers of VkFormat: plain, and sRGB-encoded. Source: Vulkan 1.3, VkFormat. */
const TYPES: Readonly<Record<BlockKind | 'rgba', readonly [number, number]>> = {
  bc1: [131, 132],
  bc3: [137, 138],
  bc4: [139, 139],
  bc5: [141, 141],
  bc7: [145, 146],
  rgba: [37, 43],
}
/** RGBA blocks of BC1, which others write. */
const OTHER_BC1 = [133, 134]

export const vulkanType = ({ block, srgb }: FileShape): number => TYPES[block ?? 'rgba'][srgb ? 1 : 0]

/** What a number of VkFormat is; undefined where it is none that is read. */
export function kindOfType(type: number): { readonly block: BlockKind | null; readonly srgb: boolean } | undefined {
  if (OTHER_BC1.includes(type)) return { block: 'bc1', srgb: type === OTHER_BC1[1] }
  for (const [name, [plain, srgb]] of Object.entries(TYPES) as [BlockKind | 'rgba', readonly [number, number]][])
    if (type === plain || type === srgb)
      return { block: name === 'rgba' ? null : name, srgb: type === srgb && srgb !== plain }
  return undefined
}

/** Whether a file says by its first bytes that it is sRGB-encoded. */
export function isSrgbType(head: Uint8Array): boolean {
  if (head.length < 16) return false
  return kindOfType(new DataView(head.buffer, head.byteOffset).getUint32(12, true))?.srgb ?? false
}

/** Colour models of the Khronos Data Format Specification 1.3, section 5.6, and their samples: first bit, bits, channel. */
const MODELS: Readonly<
  Record<BlockKind, { readonly model: number; readonly samples: readonly (readonly [number, number, number])[] }>
> = {
  bc1: { model: 128, samples: [[0, 64, 0]] },
  bc3: {
    model: 130,
    samples: [
      [0, 64, 15],
      [64, 64, 0],
    ],
  },
  bc4: { model: 131, samples: [[0, 64, 0]] },
  bc5: {
    model: 132,
    samples: [
      [0, 64, 0],
      [64, 64, 1],
    ],
  },
  bc7: { model: 134, samples: [[0, 128, 0]] },
}
/** The model of plain channels, and what marks a sample as not encoded. */
const [PLAIN_MODEL, LINEAR_SAMPLE] = [1, 0x10]

/** The basic data format descriptor of a shape. */
export function dataFormat({ block, srgb }: FileShape): KTX2Container['dataFormatDescriptor'][number] {
  const sample = (bitOffset: number, bits: number, channelType: number, upper: number): KTX2BasicFormatSample => ({
    ...{
      bitOffset,
      bitLength: bits - 1,
      channelType,
      samplePosition: [0, 0, 0, 0],
      sampleLower: 0,
      sampleUpper: upper,
    },
  })
  const fixed = {
    vendorId: 0,
    descriptorType: 0,
    versionNumber: 2,
    colorPrimaries: 1,
    transferFunction: srgb ? 2 : 1,
    flags: 0,
  }
  if (block) {
    const { model, samples } = MODELS[block]
    return {
      ...fixed,
      colorModel: model,
      texelBlockDimension: [3, 3, 0, 0],
      bytesPlane: [BLOCK_BYTES[block], 0, 0, 0, 0, 0, 0, 0],
      samples: samples.map(([at, bits, channel]) => sample(at, bits, channel, 0xffffffff)),
    }
  }
  return {
    ...fixed,
    colorModel: PLAIN_MODEL,
    texelBlockDimension: [0, 0, 0, 0],
    bytesPlane: [4, 0, 0, 0, 0, 0, 0, 0],
    samples: [0, 1, 2, 15].map((channel, i) =>
      sample(8 * i, 8, channel === 15 && srgb ? 15 | LINEAR_SAMPLE : channel, 255),
    ),
  }
}
