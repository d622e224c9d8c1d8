import { formatOfBytes } from '#core/texture/format-registry'
import type { FileFormat } from '#core/texture/file-format'
import { formats } from '#core/texture/formats/formats.generated'
import { Buffer } from 'node:buffer'
import { open, readFile } from 'node:fs/promises'
import { read } from 'ktx-parse'
import sharp from 'sharp'
import { FloatType } from 'three'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js'
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js'
import { GristError } from '#core/errors'
import type { RasterShape } from '#core/field/raster'
import type { BlockKind } from '#core/kernels/blocks/blocks'
import { blockBytes } from '#core/kernels/blocks/blocks'
import { decodeBlocks } from '#core/kernels/blocks/decode-blocks'
import { LIMITS } from '#core/limits'
import { decompressZstd } from './zstd'
import { channelsOf } from '#core/texture/bytes/block-texels'
import { kindOfType } from '#core/texture/bytes/ktx-types'
import { parseDds } from '#core/texture/bytes/dds-container'

/**
 * A decoded image as its file had it, in one plain array and nothing else.
 * Shape: interleaved channels, top row first; steps of 0–255 or 0–65535, or floats.
 */
export interface RawImage extends RasterShape {
  readonly data: Uint8Array | Uint16Array | Float32Array
}

interface Promised {
  readonly width: number
  readonly height: number
  readonly channels: number
  /** Bytes a value takes once it is decoded. */
  readonly bytes: 1 | 2 | 4
}

/**
 * Looks at what a header promises before anything is allocated. Throws file-unsupported beyond the limits, file-invalid where
 * a file is too short for its texels: no format packs more than `mostPacked` texels into a byte.
 */
function checkSize({ width, height, channels, bytes }: Promised, fileBytes: number, mostPacked: number): void {
  const { side, decodedBytes, floatBytes } = LIMITS.image
  const max = bytes === 4 ? floatBytes : decodedBytes
  const bytesOut = width * height * channels * bytes
  if (!(width >= 1 && height >= 1 && width <= side && height <= side && bytesOut <= max))
    throw new GristError(
      'file-unsupported',
      `Expected at most ${side} texels a side and ${max >> 20} MB of texels but received ${width} × ${height} of ${channels} channels (${Math.ceil(bytesOut / 1048576)} MB).`,
    )
  if (width * height > fileBytes * mostPacked)
    throw new GristError('file-invalid', `The file is too short for the ${width} × ${height} texels it promises.`)
}

/** The bytes as a buffer of their own, copied only where they share one. */
const arrayBuffer = (bytes: Buffer): ArrayBuffer =>
  bytes.byteOffset === 0 && bytes.length === bytes.buffer.byteLength
    ? (bytes.buffer as ArrayBuffer)
    : (bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer)

function readExr(bytes: Buffer): RawImage {
  const [width, height] = exrSize(bytes)
  // Deflate makes at most 1032 bytes of one; wavelets of an even picture come to about as much.
  checkSize({ width, height, channels: 4, bytes: 4 }, bytes.length, 1200)
  const loader = new EXRLoader()
  loader.setDataType(FloatType)
  return floats(loader.parse(arrayBuffer(bytes)) as unknown as Floats, true)
}

/** The data window, read before anything is allocated. Source: OpenEXR File Layout. */
function exrSize(bytes: Buffer): [number, number] {
  const at = bytes.subarray(0, 1 << 16).indexOf('dataWindow\0box2i\0', 0, 'latin1')
  if (at < 0 || at + 37 > bytes.length) throw new GristError('file-invalid', 'The EXR file has no data window.')
  const [x0, y0, x1, y1] = [0, 4, 8, 12].map((i) => bytes.readInt32LE(at + 21 + i)) as [number, number, number, number]
  return [x1 - x0 + 1, y1 - y0 + 1]
}

function readHdr(bytes: Buffer): RawImage {
  const size = /\n-Y (\d{1,6}) \+X (\d{1,6})\n/.exec(bytes.toString('latin1', 0, 4096))
  if (!size) throw new GristError('file-invalid', 'Expected a size line "-Y height +X width".')
  // A run of 127 equal values takes two bytes for each of four channels.
  checkSize({ width: Number(size[2]), height: Number(size[1]), channels: 4, bytes: 4 }, bytes.length, 16)
  const loader = new HDRLoader()
  loader.setDataType(FloatType)
  return floats(loader.parse(arrayBuffer(bytes)) as unknown as Floats, false)
}

interface Floats {
  width: number
  height: number
  data: Float32Array
}

/** Turned the right way up in its place; what is no number becomes 0. */
function floats({ width, height, data }: Floats, bottomUp: boolean): RawImage {
  const channels = (data.length / (width * height)) as 1 | 2 | 3 | 4
  if (![1, 2, 3, 4].includes(channels)) throw new GristError('file-invalid', 'The texels do not fill the picture.')
  for (let i = 0; i < data.length; i++) if (!Number.isFinite(data[i])) data[i] = 0
  if (bottomUp) {
    const row = width * channels
    const held = new Float32Array(row)
    for (let top = 0, bottom = height - 1; top < bottom; top++, bottom--) {
      held.set(data.subarray(top * row, (top + 1) * row))
      data.copyWithin(top * row, bottom * row, (bottom + 1) * row)
      data.set(held, bottom * row)
    }
  }
  return { width, height, channels, data, bits: 32, float: true }
}

function readTga(bytes: Buffer): RawImage {
  const width = bytes.readUInt16LE(12)
  const height = bytes.readUInt16LE(14)
  // A run of 128 equal texels takes two bytes at least; without runs each texel takes one.
  checkSize({ width, height, channels: 4, bytes: 1 }, bytes.length, bytes[2]! >= 9 ? 64 : 1)
  const parsed = new TGALoader().parse(arrayBuffer(bytes)) as unknown as { data: Uint8Array } | undefined
  if (!parsed?.data || parsed.data.length !== width * height * 4)
    throw new GristError('file-invalid', 'The texels do not fill the picture.')
  const shape = { width, height, bits: 8, float: false } as const
  if (bytes[16] === 32) return { ...shape, channels: 4, data: parsed.data }
  const { data } = parsed
  for (let i = 0; i < width * height; i++) for (let c = 0; c < 3; c++) data[i * 3 + c] = data[i * 4 + c]!
  return { ...shape, channels: 3, data: data.subarray(0, width * height * 3) }
}

/** PNG, JPEG, WebP and TIFF, row by row from the file; only the texels are held. */
async function readBySharp(source: Buffer | string, fileBytes: number): Promise<RawImage> {
  const opened = () =>
    sharp(source, { limitInputPixels: LIMITS.image.side ** 2, failOn: 'error', ignoreIcc: true }).autoOrient()
  const { width, height, depth, channels = 3, space: seen = 'srgb' } = await opened().metadata()
  const float = depth === 'float' || depth === 'double'
  const deep = depth === 'ushort' || depth === 'short'
  // A bit a texel, deflated by 1032; WebP may say in a few bytes that all is of one colour.
  checkSize({ width, height, channels, bytes: float ? 4 : deep ? 2 : 1 }, fileBytes, 1 << 20)
  const grey = channels < 3
  const space = float ? seen : deep ? (grey ? 'grey16' : 'rgb16') : grey ? 'b-w' : 'srgb'
  // Floats stay in the space they came in, so that they are not mapped into another and back.
  const { data, info } = await (float ? opened().pipelineColourspace(space) : opened())
    .toColourspace(space)
    .raw({ depth: float ? 'float' : deep ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true })
  if (float) {
    const values = new Float32Array(data.buffer, data.byteOffset, data.length / 4)
    return floats({ width: info.width, height: info.height, data: values }, false)
  }
  return {
    width: info.width,
    height: info.height,
    channels: info.channels as 1 | 2 | 3 | 4,
    data: deep ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data,
    bits: deep ? 16 : 8,
    float: false,
  }
}

/** A DDS, at a mip level as far as it holds them. */
function readDds(bytes: Buffer, level = 0): RawImage {
  const { width, height, block, order, levels } = parseDds(bytes)
  // A block of 8 bytes is 16 texels.
  checkSize({ width, height, channels: 4, bytes: 1 }, bytes.length, 2)
  const own = levels[Math.min(level, levels.length - 1)]!
  const data = bytes.subarray(own.at, own.at + own.bytes)
  return texelsOf(block, data, own, order)
}

/** Texels of blocks, or of four bytes each in some order. */
function texelsOf(
  block: BlockKind | null,
  data: Uint8Array,
  { width, height }: { readonly width: number; readonly height: number },
  order: readonly number[] = [0, 1, 2, 3],
): RawImage {
  const shape = { width, height, bits: 8, float: false } as const
  if (!block) {
    const texels = new Uint8Array(data.length)
    for (let i = 0; i < texels.length; i += 4) for (let c = 0; c < 4; c++) texels[i + c] = data[i + order[c]!]!
    return { ...shape, channels: 4, data: texels }
  }
  const channels = block === 'bc4' ? 1 : block === 'bc5' ? 3 : 4
  return { ...shape, channels, data: channelsOf(block, decodeBlocks(block, data, width, height), channels as 1) }
}

/** A KTX2 of blocks or RGBA bytes, plain or compressed by zstd, at a mip level as far as it holds them. */
async function readKtx2(bytes: Buffer, level = 0): Promise<RawImage> {
  if (bytes.length < 80) throw new GristError('file-invalid', 'The KTX2 ends within its header.')
  const [type, width, height, depth, layers, faces] = [12, 20, 24, 28, 32, 36].map((at) => bytes.readUInt32LE(at)) as [
    number,
    number,
    number,
    number,
    number,
    number,
  ]
  const kind = kindOfType(type)
  if (!kind || depth > 0 || layers > 1 || faces !== 1)
    throw new GristError(
      'file-unsupported',
      `Expected a KTX2 of one picture in BC1, BC3, BC4, BC5, BC7 or RGBA bytes but it has Vulkan format ${type}.`,
    )
  // Zstd packs what is of one colour without end: what a level promises is looked at below.
  checkSize({ width, height, channels: 4, bytes: 1 }, bytes.length, 1 << 20)
  const { levels, supercompressionScheme } = read(bytes)
  if (supercompressionScheme !== 0 && supercompressionScheme !== 2)
    throw new GristError('file-unsupported', 'Expected a KTX2 that is plain or compressed by zstd.')
  const number = Math.min(level, levels.length - 1)
  const own = levels[number]
  if (!own) throw new GristError('file-invalid', 'The KTX2 holds no picture.')
  const side = { width: Math.max(1, width >> number), height: Math.max(1, height >> number) }
  const wanted = kind.block ? blockBytes(kind.block, side.width, side.height) : side.width * side.height * 4
  if (own.uncompressedByteLength !== wanted && supercompressionScheme === 2)
    throw new GristError('file-invalid', `Expected ${wanted} bytes but the level has ${own.uncompressedByteLength}.`)
  const data = supercompressionScheme === 2 ? await decompressZstd(own.levelData, wanted) : own.levelData
  if (data.length !== wanted)
    throw new GristError('file-invalid', `Expected ${wanted} bytes but the level has ${data.length}.`)
  return texelsOf(kind.block, data, side)
}

const READERS = { exr: readExr, hdr: readHdr, tga: readTga, dds: readDds, ktx2: readKtx2 }

/** What a file is, by its first bytes. Throws file-unsupported. */
function readerOf(head: Buffer): FileFormat['reader'] {
  const format = formatOfBytes(head)
  if (format) return format.reader
  const titles = formats.map(({ title }) => title)
  throw new GristError('file-unsupported', `Expected ${titles.slice(0, -1).join(', ')} or ${titles.at(-1)}.`)
}

/**
 * Reads a file of any of core/texture/formats from bytes, on this thread. What the file is, its first bytes say.
 * The loaders trust their input and may spin or throw anything on damaged files: call it on a thread that may be ended.
 */
export async function loadBytes(bytes: Buffer, level = 0): Promise<RawImage> {
  const reader = readerOf(bytes.subarray(0, 64))
  return reader === 'native' ? readBySharp(bytes, bytes.length) : READERS[reader](bytes, level)
}

/** The same from a file, which is not held as a whole where its format allows. */
export async function loadFile(path: string): Promise<RawImage> {
  const file = await open(path)
  try {
    const { size } = await file.stat()
    const head = (await file.read(Buffer.alloc(64), 0, 64, 0)).buffer.subarray(0, size)
    const reader = readerOf(head)
    if (reader === 'native') return await readBySharp(path, size)
    if (size > LIMITS.image.floatBytes)
      throw new GristError(
        'file-unsupported',
        `Expected at most ${LIMITS.image.floatBytes >> 20} MB of this format but the file has ${size >> 20} MB.`,
      )
  } finally {
    await file.close()
  }
  return loadBytes(await readFile(path))
}
