import { Buffer } from 'node:buffer'
import sharp from 'sharp'
import { encodeSrgb } from '#core/colour/srgb'
import { GristError } from '#core/errors'
import type { RasterImage } from '#core/field/pyramid'
import { rasterBytes } from '#core/field/raster'
import type { TaskFailure } from '../task-outcome'
import { failureOf } from '../task-outcome'
import { loadHere } from './loaders'
import type { LibraryImage } from './read-image'

export interface ImageTask {
  readonly bytes: Uint8Array
  readonly file: string
  /** False: the values; true: what the library keeps. */
  readonly forLibrary: boolean
}
export type ImageResult = RasterImage | LibraryImage

// Loaders warn about what they skip; a thread that reads foreign files says nothing on the console.
console.warn = () => {}

const THUMBNAIL = 192

/** Entry of the thread that reads images. What a loader throws means a broken file. */
export default async ({ bytes, file, forLibrary }: ImageTask): Promise<ImageResult | TaskFailure> => {
  try {
    const image = await loadHere(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength))
    if (!forLibrary) return image
    const { width, height, channels, bits, float } = image
    return { width, height, channels, bits, float, raster: rasterBytes(image), thumbnail: await thumbnailOf(image) }
  } catch (error) {
    if (error instanceof GristError) return failureOf(error.at({ file }))
    const reason = (error as Error).message.split('\n')[0]!.replace(/[:.]*$/, '')
    return failureOf(new GristError('file-invalid', `The image could not be read: ${reason}.`, { file }))
  }
}

async function thumbnailOf({ values, width, height, channels, float }: RasterImage): Promise<Uint8Array> {
  // Every so many texels is enough for so small a picture.
  const step = Math.max(1, Math.floor(Math.min(width, height) / (4 * THUMBNAIL)))
  const [w, h] = [Math.ceil(width / step), Math.ceil(height / step)]
  const small = new Uint8Array(w * h * channels)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let c = 0; c < channels; c++) {
        const v = values[(y * step * width + x * step) * channels + c]!
        const shown = float && (channels < 3 || c < 3) ? encodeSrgb(Math.max(0, Math.min(1, v))) : v
        small[(y * w + x) * channels + c] = Math.round(Math.max(0, Math.min(1, shown)) * 255)
      }
  return sharp(small, { raw: { width: w, height: h, channels } })
    .resize(THUMBNAIL, THUMBNAIL, { fit: 'inside' })
    .png()
    .toBuffer()
}
