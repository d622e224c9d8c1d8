import { GristError } from '../../errors'
import type { BlockKind } from '../../kernels/blocks/blocks'
import { blockBytes } from '../../kernels/blocks/blocks'
import { mipSides } from './mip-sides'
import type { FileShape } from '../file-format'

/** Four-letter codes by blocks; others that readers know follow. Source: Microsoft, "Programming Guide for DDS". */
const WRITTEN_CODES: Partial<Record<BlockKind, string>> = { bc1: 'DXT1', bc3: 'DXT5' }
const READ_CODES: Readonly<Record<string, BlockKind>> = {
  DXT1: 'bc1',
  DXT5: 'bc3',
  ATI1: 'bc4',
  BC4U: 'bc4',
  ATI2: 'bc5',
  BC5U: 'bc5',
}
/** Numbers of DXGI_FORMAT: plain, and marked as sRGB. Source: Microsoft, DXGI_FORMAT enumeration. */
const TYPES: Readonly<Record<BlockKind | 'rgba', readonly [number, number]>> = {
  bc1: [71, 72],
  bc3: [77, 78],
  bc4: [80, 80],
  bc5: [83, 83],
  bc7: [98, 99],
  rgba: [28, 29],
}

const [MAGIC, HEADER, LONGER] = [0x20534444, 128, 20]
/** Flags of the header: caps, height, width, pixel format; then mips, and the length of all or of a row. */
const [NEEDED, HAS_MIPS, HAS_LENGTH, HAS_PITCH] = [0x1007, 0x20000, 0x80000, 0x8]
const [IS_TEXTURE, IS_COMPLEX, MIPMAP] = [0x1000, 0x8, 0x400000]

/** The head of a file of this shape. */
export function ddsHeader({ width, height, block, srgb, mips }: FileShape): Uint8Array {
  // Plain texels and the blocks that have a code of their own take the short header.
  const code = block ? WRITTEN_CODES[block] : ''
  const bytes = new Uint8Array(HEADER + (code === undefined ? LONGER : 0))
  const view = new DataView(bytes.buffer)
  const levels = mips ? mipSides(width, height).length : 1
  const length = block ? blockBytes(block, width, height) : width * 4
  const flags = NEEDED | (levels > 1 ? HAS_MIPS : 0) | (block ? HAS_LENGTH : HAS_PITCH)
  const put = (at: number, value: number): void => view.setUint32(at, value, true)
  ;[MAGIC, 124, flags, height, width, length, 0, levels].forEach((value, i) => put(4 * i, value))
  put(76, 32)
  if (block) {
    put(80, 4)
    for (const [i, letter] of [...(code ?? 'DX10')].entries()) bytes[84 + i] = letter.charCodeAt(0)
  } else [0x41, 0, 32, 0xff, 0xff00, 0xff0000, 0xff000000].forEach((value, i) => put(80 + 4 * i, value))
  put(108, IS_TEXTURE | (levels > 1 ? IS_COMPLEX | MIPMAP : 0))
  if (block && code === undefined) {
    // The type, a picture of two dimensions, no cube, one picture, alpha as it comes.
    const type = TYPES[block][srgb ? 1 : 0]
    ;[type, 3, 0, 1, 0].forEach((value, i) => put(HEADER + 4 * i, value))
  }
  return bytes
}

/** What a DDS file holds, and where its levels lie. */
export interface DdsContents {
  readonly width: number
  readonly height: number
  /** Null are four bytes a texel. */
  readonly block: BlockKind | null
  /** Of plain texels: which byte is R, G, B and A. */
  readonly order: readonly [number, number, number, number]
  readonly srgb: boolean | null
  readonly levels: readonly {
    readonly at: number
    readonly bytes: number
    readonly width: number
    readonly height: number
  }[]
}

const unsupported = (what: string): GristError =>
  new GristError('file-unsupported', `Expected a DDS of BC1, BC3, BC4, BC5, BC7 or RGBA bytes but it holds ${what}.`)

/** Reads the head of a DDS. Throws file-unsupported, file-invalid; the file is as long as its levels need, at least. */
export function parseDds(bytes: Uint8Array): DdsContents {
  if (bytes.length < HEADER) throw new GristError('file-invalid', 'The DDS ends within its header.')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const read = (at: number): number => view.getUint32(at, true)
  if (read(0) !== MAGIC || read(4) !== 124) throw new GristError('file-invalid', 'This is no DDS header.')
  const [height, width, levelCount] = [read(12), read(16), read(28)]
  if (width < 1 || height < 1 || width > 1 << 16 || height > 1 << 16)
    throw new GristError('file-invalid', `The DDS promises ${width} × ${height} texels.`)
  if (read(112) !== 0) throw unsupported('a cube or a volume')
  const { block, order, srgb, from } = kindOf(bytes, read)
  const sides = mipSides(width, height).slice(0, Math.max(1, levelCount))
  let at = from
  const levels = sides.map(([w, h]) => {
    const level = { at, bytes: block ? blockBytes(block, w, h) : w * h * 4, width: w, height: h }
    at += level.bytes
    return level
  })
  if (levels[0]!.at + levels[0]!.bytes > bytes.length)
    throw new GristError('file-invalid', `The DDS ends before its ${width} × ${height} texels.`)
  return { width, height, block, order, srgb, levels: levels.filter((one) => one.at + one.bytes <= bytes.length) }
}

type Kind = Pick<DdsContents, 'block' | 'order' | 'srgb'> & { readonly from: number }

function kindOf(bytes: Uint8Array, read: (at: number) => number): Kind {
  const flags = read(80)
  const rgba = [0, 1, 2, 3] as const
  if (flags & 4) {
    const code = String.fromCharCode(...bytes.subarray(84, 88))
    const block = READ_CODES[code]
    if (block) return { block, order: rgba, srgb: null, from: HEADER }
    if (code !== 'DX10') throw unsupported(`blocks called “${code.replace(/[^ -~]/g, '?')}”`)
    if (bytes.length < HEADER + LONGER) throw new GristError('file-invalid', 'The DDS ends within its header.')
    const [type, dimension, misc, count] = [0, 4, 8, 12].map((i) => read(HEADER + i)) as [
      number,
      number,
      number,
      number,
    ]
    if (dimension !== 3 || misc & 4 || count > 1) throw unsupported('more than one picture')
    const from = HEADER + LONGER
    // BGRA bytes, plain and sRGB.
    if (type === 87 || type === 91) return { block: null, order: [2, 1, 0, 3], srgb: type === 91, from }
    for (const [name, types] of Object.entries(TYPES) as [BlockKind | 'rgba', readonly [number, number]][])
      if (types.includes(type))
        return {
          block: name === 'rgba' ? null : name,
          order: rgba,
          srgb: types[0] === types[1] ? null : type === types[1],
          from,
        }
    throw unsupported(`type ${type} of DXGI`)
  }
  const masks = [92, 96, 100, 104].map(read)
  if (!(flags & 0x40) || read(88) !== 32) throw unsupported(`${read(88)} bits a texel`)
  const order = masks.map((mask) => [0xff, 0xff00, 0xff0000, 0xff000000].indexOf(mask >>> 0))
  if (order.slice(0, 3).includes(-1)) throw unsupported('channels in another order')
  // Without a mask alpha is what is left.
  if (order[3] === -1) order[3] = [0, 1, 2, 3].find((i) => !order.slice(0, 3).includes(i))!
  return { block: null, order: order as [number, number, number, number], srgb: null, from: HEADER }
}
