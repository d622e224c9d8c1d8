import { readFile, stat } from 'node:fs/promises'
import sharp from 'sharp'
import { GristError } from '#core/errors'
import { LIMITS } from '#core/limits'
import type { RasterImage } from '#core/field/pyramid'
import { raise } from '../task-outcome'
import type { LoaderKind, LoaderOutcome } from './loaders'
import { checkSize } from './loaders'
import { openPool } from './pool'

/**
 * Reads PNG, JPEG, WebP, EXR, Radiance HDR and TGA. What the file is, its first bytes say, not its name.
 * Throws asset-missing, file-unsupported, file-invalid.
 */
export async function readImage(path: string): Promise<RasterImage> {
  const info = await stat(path).catch(() => null)
  if (!info?.isFile()) throw new GristError('asset-missing', 'There is no such file.', { file: path })
  if (info.size > LIMITS.image.bytes)
    throw new GristError(
      'file-unsupported',
      `Expected at most ${LIMITS.image.bytes >> 20} MB but the file has ${info.size >> 20} MB.`,
      { file: path },
    )
  return decodeImage(await readFile(path), path)
}

/** The same from bytes; `file` names them in errors. After `milliseconds` it gives up. */
export async function decodeImage(
  bytes: Buffer,
  file: string,
  milliseconds: number = LIMITS.image.milliseconds,
): Promise<RasterImage> {
  try {
    const kind = kindOf(bytes)
    return await (kind === 'sharp' ? readBySharp(bytes, milliseconds) : readByLoader(kind, bytes, milliseconds))
  } catch (error) {
    if (error instanceof GristError) throw error.at({ file })
    throw new GristError('file-invalid', `The image could not be read: ${(error as Error).message.split('\n')[0]}`, {
      file,
    })
  }
}

function kindOf(bytes: Buffer): LoaderKind | 'sharp' {
  const starts = (...head: number[]): boolean => head.every((byte, i) => bytes[i] === byte)
  if (starts(0x89, 0x50, 0x4e, 0x47) || starts(0xff, 0xd8, 0xff)) return 'sharp'
  if (starts(0x52, 0x49, 0x46, 0x46) && bytes.toString('latin1', 8, 12) === 'WEBP') return 'sharp'
  if (starts(0x76, 0x2f, 0x31, 0x01)) return 'exr'
  if (bytes.toString('latin1', 0, 2) === '#?') return 'hdr'
  if (looksLikeTga(bytes)) return 'tga'
  throw new GristError('file-unsupported', 'Expected PNG, JPEG, WebP, EXR, Radiance HDR or TGA.')
}

/** TGA has no mark at its front: header fields must make sense together. */
function looksLikeTga(bytes: Buffer): boolean {
  if (bytes.length < 18) return false
  const [, mapType, type] = bytes
  return mapType! <= 1 && [1, 2, 3, 9, 10, 11].includes(type!) && [8, 16, 24, 32].includes(bytes[16]!)
}

let loaders: ReturnType<typeof openPool> | undefined

/** On a thread of its own, which ends when it takes too long or too much memory. */
async function readByLoader(kind: LoaderKind, bytes: Buffer, milliseconds: number): Promise<RasterImage> {
  loaders ??= openPool('loaders-worker', 1, { idleTimeout: 5000, resourceLimits: { maxOldGenerationSizeMb: 4096 } })
  const signal = AbortSignal.timeout(milliseconds)
  try {
    const outcome = (await loaders.run({ kind, bytes: new Uint8Array(bytes) }, { signal })) as LoaderOutcome
    if ('error' in outcome) return raise(outcome)
    return outcome
  } catch (error) {
    if (signal.aborted) throw new GristError('file-invalid', 'Reading the image took too long.')
    throw error
  }
}

async function readBySharp(bytes: Buffer, milliseconds: number): Promise<RasterImage> {
  const open = () =>
    sharp(bytes, { limitInputPixels: LIMITS.image.texels, failOn: 'error', ignoreIcc: true })
      .timeout({ seconds: Math.ceil(milliseconds / 1000) })
      .autoOrient()
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
