import { Buffer } from 'node:buffer'
import { open } from 'node:fs/promises'
import sharp from 'sharp'
import { encodeSrgb } from '#core/colour/srgb'
import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'
import type { TaskFailure } from '../task-outcome'
import { failureOf } from '../task-outcome'
import type { RawImage } from './loaders'
import { loadBytes, loadFile } from './loaders'
import type { MipRules } from '#core/texture/mips'
import { mipOf } from '#core/texture/mips'
import {
  compareMaps,
  differencePicture,
  fittingGain,
  lookedAt,
  onlyAlphaDiffers,
  sharedPlanes,
} from '#core/texture/compare'
import type { ImageResult, ImageTask, LibraryImage, MapComparison } from './image-task'

// Loaders warn about what they skip; a thread that reads foreign files says nothing on the console.
console.warn = () => {}

const THUMBNAIL = 192

/** Entry of the thread that reads images. What a loader throws means a broken file. */
export default async ({ source, file, want }: ImageTask): Promise<ImageResult | TaskFailure> => {
  try {
    if (want.kind === 'library') return await libraryImage(await loadRaw(source), want.raster)
    if (want.kind === 'thumbnail') return await thumbnailOf(await loadRaw(source))
    if (want.kind === 'mip') return await mipAt(source, want)
    const image = valuesOf(await loadRaw(source))
    if (want.kind === 'values') return image
    return await comparisonOf(image, want.rules, valuesOf(await loadRaw(want.with.bytes)), want.with, want.gain)
  } catch (error) {
    if (error instanceof GristError) return failureOf(error.at({ file }))
    const reason = (error as Error).message.split('\n')[0]!.replace(/[:.]*$/, '')
    return failureOf(new GristError('file-invalid', `The image could not be read: ${reason}.`, { file }))
  }
}

const loadRaw = (source: Uint8Array | string, level = 0): Promise<RawImage> =>
  typeof source === 'string'
    ? loadFile(source)
    : loadBytes(Buffer.from(source.buffer, source.byteOffset, source.byteLength), level)

/** A mip level: that of the file where it holds it, else made of the smallest that it holds. */
async function mipAt(
  source: Uint8Array | string,
  { level, ...rules }: MipRules & { level: number },
): Promise<RasterImage> {
  const whole = valuesOf(await loadRaw(source))
  if (level === 0) return whole
  const held = valuesOf(await loadRaw(source, level))
  return mipOf(held, level - Math.round(Math.log2(whole.width / held.width)), rules)
}

/** Greatest step of the integers, by bits. */
const STEPS = { 8: 255, 16: 65535, 32: 1 } as const

/** The same as numbers, in memory that all threads see. */
function valuesOf({ data, bits, ...shape }: RawImage): RasterImage {
  const values = new Float32Array(new SharedArrayBuffer(data.length * 4))
  const max = STEPS[bits]
  for (let i = 0; i < data.length; i++) values[i] = data[i]! / max
  return { ...shape, bits, values }
}

/** Bytes written at a time. */
const PIECE = 8 << 20

async function libraryImage(image: RawImage, path: string): Promise<LibraryImage> {
  const { data, ...shape } = image
  const bytes = new Uint8Array(data.buffer, data.byteOffset, data.byteLength)
  const file = await open(path, 'w')
  try {
    for (let at = 0; at < bytes.length; at += PIECE) await file.write(bytes.subarray(at, at + PIECE))
  } finally {
    await file.close()
  }
  return { ...shape, rasterBytes: bytes.length, thumbnail: await thumbnailOf(image) }
}

/** Longer side of a picture of the difference. */
const DIFFERENCE = 1024

/** The larger of two is brought down to the size of the smaller by its mips; planes that only one has are left out. */
async function comparisonOf(
  a: RasterImage,
  rulesOfA: MipRules,
  b: RasterImage,
  rulesOfB: MipRules,
  wanted: number | null,
): Promise<MapComparison> {
  const levels = Math.log2(a.width / b.width)
  const sized = Number.isInteger(levels)
    ? ([mipOf(a, Math.max(0, levels), rulesOfA), mipOf(b, Math.max(0, -levels), rulesOfB)] as const)
    : ([a, b] as const)
  if (sized[0].width !== sized[1].width || sized[0].height !== sized[1].height)
    throw new GristError(
      'file-invalid',
      `Expected sizes that halving leads from one to the other, but received ${a.width} × ${a.height} and ${b.width} × ${b.height}.`,
    )
  const { before, after, added, removed } = sharedPlanes(...sized)
  const comparison = compareMaps(before, after)
  const gain = wanted ?? fittingGain(comparison)
  const { width, height } = before
  const png = (pixels: Uint8ClampedArray): Promise<Uint8Array> =>
    sharp(pixels, { raw: { width, height, channels: 4 } })
      .resize(DIFFERENCE, DIFFERENCE, { fit: 'inside', withoutEnlargement: true })
      .png()
      .toBuffer()
  return {
    ...comparison,
    width,
    height,
    gain,
    added,
    removed,
    sizes: [a, b].map((one) => [one.width, one.height] as const),
    ofAlpha: onlyAlphaDiffers(before, after),
    pictures: {
      difference: await png(differencePicture(before, after, gain)),
      before: await png(lookedAt(before)),
      after: await png(lookedAt(after)),
    },
  }
}

async function thumbnailOf({ data, width, height, channels, bits, float }: RawImage): Promise<Uint8Array> {
  // Every so many texels is enough for so small a picture.
  const step = Math.max(1, Math.floor(Math.min(width, height) / (4 * THUMBNAIL)))
  const [w, h] = [Math.ceil(width / step), Math.ceil(height / step)]
  const small = new Uint8Array(w * h * channels)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let c = 0; c < channels; c++) {
        const v = data[(y * step * width + x * step) * channels + c]! / STEPS[bits]
        const shown = float && (channels < 3 || c < 3) ? encodeSrgb(Math.max(0, Math.min(1, v))) : v
        small[(y * w + x) * channels + c] = Math.round(Math.max(0, Math.min(1, shown)) * 255)
      }
  return sharp(small, { raw: { width: w, height: h, channels } })
    .resize(THUMBNAIL, THUMBNAIL, { fit: 'inside' })
    .png()
    .toBuffer()
}
