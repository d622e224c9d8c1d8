import { readFile, stat } from 'node:fs/promises'
import sharp from 'sharp'
import { FloatType } from 'three'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js'
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js'
import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'

/** Most that is read: bytes of the file, texels a side, texels in all. */
export const IMAGE_LIMITS = { bytes: 512 << 20, side: 32768, texels: 1 << 28 }

/**
 * Reads PNG, JPEG, WebP, EXR, Radiance HDR and TGA. What the file is, its first bytes say, not its name.
 * Throws asset-missing, file-unsupported, file-invalid.
 */
export async function readImage(path: string): Promise<RasterImage> {
  const info = await stat(path).catch(() => null)
  if (!info?.isFile()) throw new GristError('asset-missing', 'There is no such file.', { file: path })
  if (info.size > IMAGE_LIMITS.bytes)
    throw new GristError(
      'file-unsupported',
      `Expected at most ${IMAGE_LIMITS.bytes >> 20} MB but the file has ${info.size >> 20} MB.`,
      { file: path },
    )
  return decodeImage(await readFile(path), path)
}

/** The same from bytes; `file` names them in errors. */
export async function decodeImage(bytes: Buffer, file: string): Promise<RasterImage> {
  try {
    return await decoderOf(bytes)(bytes)
  } catch (error) {
    if (error instanceof GristError) throw error.at({ file })
    throw new GristError('file-invalid', `The image could not be read: ${(error as Error).message.split('\n')[0]}`, {
      file,
    })
  }
}

type Decoder = (bytes: Buffer) => RasterImage | Promise<RasterImage>

function decoderOf(bytes: Buffer): Decoder {
  const starts = (...head: number[]): boolean => head.every((byte, i) => bytes[i] === byte)
  if (starts(0x89, 0x50, 0x4e, 0x47) || starts(0xff, 0xd8, 0xff)) return readBySharp
  if (starts(0x52, 0x49, 0x46, 0x46) && bytes.toString('latin1', 8, 12) === 'WEBP') return readBySharp
  if (starts(0x76, 0x2f, 0x31, 0x01)) return readExr
  if (bytes.toString('latin1', 0, 2) === '#?') return readHdr
  if (looksLikeTga(bytes)) return readTga
  throw new GristError('file-unsupported', 'Expected PNG, JPEG, WebP, EXR, Radiance HDR or TGA.')
}

function checkSize(width: number, height: number): void {
  const { side, texels } = IMAGE_LIMITS
  if (!(width >= 1 && height >= 1 && width <= side && height <= side && width * height <= texels))
    throw new GristError(
      'file-unsupported',
      `Expected at most ${side} texels a side and ${texels} in all but received ${width} × ${height}.`,
    )
}

async function readBySharp(bytes: Buffer): Promise<RasterImage> {
  const open = () =>
    sharp(bytes, { limitInputPixels: IMAGE_LIMITS.texels, failOn: 'error', ignoreIcc: true }).autoOrient()
  const { width, height, depth, channels = 3 } = await open().metadata()
  checkSize(width, height)
  const deep = depth === 'ushort'
  const grey = channels < 3
  const { data, info } = await open()
    .toColourspace(deep ? (grey ? 'grey16' : 'rgb16') : grey ? 'b-w' : 'srgb')
    .raw({ depth: deep ? 'ushort' : 'uchar' })
    .toBuffer({ resolveWithObject: true })
  const source = deep ? new Uint16Array(data.buffer, data.byteOffset, data.length / 2) : data
  const most = deep ? 65535 : 255
  const values = Float32Array.from(source, (v) => v / most)
  return {
    width: info.width,
    height: info.height,
    channels: info.channels as 1 | 2 | 3 | 4,
    values,
    bits: deep ? 16 : 8,
    float: false,
  }
}

const arrayBuffer = (bytes: Buffer): ArrayBuffer => {
  const copy = new ArrayBuffer(bytes.length)
  new Uint8Array(copy).set(bytes)
  return copy
}

function readExr(bytes: Buffer): RasterImage {
  checkSize(...exrSize(bytes))
  const loader = new EXRLoader()
  loader.setDataType(FloatType)
  const parsed = loader.parse(arrayBuffer(bytes)) as unknown as { width: number; height: number; data: Float32Array }
  return floats(parsed, true)
}

/** The data window, read before anything is allocated. Source: OpenEXR File Layout. */
function exrSize(bytes: Buffer): [number, number] {
  const at = bytes.subarray(0, 1 << 16).indexOf('dataWindow\0box2i\0', 0, 'latin1')
  if (at < 0 || at + 37 > bytes.length) throw new GristError('file-invalid', 'The EXR file has no data window.')
  const [x0, y0, x1, y1] = [0, 4, 8, 12].map((i) => bytes.readInt32LE(at + 21 + i)) as [number, number, number, number]
  return [x1 - x0 + 1, y1 - y0 + 1]
}

function readHdr(bytes: Buffer): RasterImage {
  const size = /\n-Y (\d{1,6}) \+X (\d{1,6})\n/.exec(bytes.toString('latin1', 0, 4096))
  if (!size) throw new GristError('file-invalid', 'Expected a size line "-Y height +X width".')
  checkSize(Number(size[2]), Number(size[1]))
  const loader = new HDRLoader()
  loader.setDataType(FloatType)
  const parsed = loader.parse(arrayBuffer(bytes)) as unknown as { width: number; height: number; data: Float32Array }
  return floats(parsed, false)
}

function floats(parsed: { width: number; height: number; data: Float32Array }, bottomUp: boolean): RasterImage {
  const { width, height, data } = parsed
  const channels = (data.length / (width * height)) as 1 | 4
  if (channels !== 1 && channels !== 4) throw new GristError('file-invalid', 'The texels do not fill the picture.')
  const row = width * channels
  const values = new Float32Array(data.length)
  for (let y = 0; y < height; y++) {
    const from = (bottomUp ? height - 1 - y : y) * row
    for (let i = 0; i < row; i++) {
      const v = data[from + i]!
      values[y * row + i] = Number.isFinite(v) ? v : 0
    }
  }
  return { width, height, channels, values, bits: 32, float: true }
}

/** TGA has no mark at its front: header fields must make sense together. */
function looksLikeTga(bytes: Buffer): boolean {
  if (bytes.length < 18) return false
  const [, mapType, type] = bytes
  return mapType! <= 1 && [1, 2, 3, 9, 10, 11].includes(type!) && [8, 16, 24, 32].includes(bytes[16]!)
}

function readTga(bytes: Buffer): RasterImage {
  const width = bytes.readUInt16LE(12)
  const height = bytes.readUInt16LE(14)
  checkSize(width, height)
  const parsed = new TGALoader().parse(arrayBuffer(bytes)) as unknown as { data: Uint8Array } | undefined
  if (!parsed?.data || parsed.data.length !== width * height * 4)
    throw new GristError('file-invalid', 'The texels do not fill the picture.')
  const opaque = bytes[16] !== 32
  const channels = opaque ? 3 : 4
  const values = new Float32Array(width * height * channels)
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < channels; c++) values[i * channels + c] = parsed.data[i * 4 + c]! / 255
  return { width, height, channels, values, bits: 8, float: false }
}
