import sharp from 'sharp'
import { FloatType } from 'three'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { HDRLoader } from 'three/examples/jsm/loaders/HDRLoader.js'
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js'
import { GristError } from '#core/errors'
import { sharedMemory } from '#core/field/field'
import { LIMITS } from '#core/limits'
import type { RasterImage } from '#core/field/pyramid'

/** Throws file-unsupported for pictures beyond the limits; called before anything is allocated. */
function checkSize(width: number, height: number): void {
  const { side, texels } = LIMITS.image
  if (!(width >= 1 && height >= 1 && width <= side && height <= side && width * height <= texels))
    throw new GristError(
      'file-unsupported',
      `Expected at most ${side} texels a side and ${texels} in all but received ${width} × ${height}.`,
    )
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
  const values = new Float32Array(sharedMemory(data.length * 4))
  for (let y = 0; y < height; y++) {
    const from = (bottomUp ? height - 1 - y : y) * row
    for (let i = 0; i < row; i++) {
      const v = data[from + i]!
      values[y * row + i] = Number.isFinite(v) ? v : 0
    }
  }
  return { width, height, channels, values, bits: 32, float: true }
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
  const values = new Float32Array(sharedMemory(width * height * channels * 4))
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < channels; c++) values[i * channels + c] = parsed.data[i * 4 + c]! / 255
  return { width, height, channels, values, bits: 8, float: false }
}

async function readBySharp(bytes: Buffer): Promise<RasterImage> {
  const open = () =>
    sharp(bytes, { limitInputPixels: LIMITS.image.texels, failOn: 'error', ignoreIcc: true }).autoOrient()
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
  const values = new Float32Array(sharedMemory(source.length * 4))
  for (let i = 0; i < source.length; i++) values[i] = source[i]! / most
  return {
    width: info.width,
    height: info.height,
    channels: info.channels as 1 | 2 | 3 | 4,
    values,
    bits: deep ? 16 : 8,
    float: false,
  }
}

type Loader = (bytes: Buffer) => RasterImage | Promise<RasterImage>

function loaderOf(bytes: Buffer): Loader {
  const starts = (...head: number[]): boolean => head.every((byte, i) => bytes[i] === byte)
  if (starts(0x89, 0x50, 0x4e, 0x47) || starts(0xff, 0xd8, 0xff)) return readBySharp
  if (starts(0x52, 0x49, 0x46, 0x46) && bytes.toString('latin1', 8, 12) === 'WEBP') return readBySharp
  if (starts(0x76, 0x2f, 0x31, 0x01)) return readExr
  if (bytes.toString('latin1', 0, 2) === '#?') return readHdr
  if (looksLikeTga(bytes)) return readTga
  throw new GristError('file-unsupported', 'Expected PNG, JPEG, WebP, EXR, Radiance HDR or TGA.')
}

/** TGA has no mark at its front: header fields must make sense together. */
function looksLikeTga(bytes: Buffer): boolean {
  if (bytes.length < 18) return false
  const [, mapType, type] = bytes
  return mapType! <= 1 && [1, 2, 3, 9, 10, 11].includes(type!) && [8, 16, 24, 32].includes(bytes[16]!)
}

/**
 * Reads PNG, JPEG, WebP, EXR, Radiance HDR and TGA from bytes, on this thread. What the file is, its first bytes say.
 * The loaders trust their input and may spin or throw anything on damaged files: call it on a thread that may be ended.
 */
export const loadHere = async (bytes: Buffer): Promise<RasterImage> => loaderOf(bytes)(bytes)
