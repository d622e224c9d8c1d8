import type decodeWasm from '@jsquash/jpeg/decode.js'
import type encodeWasm from '@jsquash/jpeg/encode.js'
import { GristError } from '#core/errors'
import type { JpegShape } from '#core/texture/jpeg-codec'

/** High quality, colour in full resolution, in one pass. */
const OPTIONS = { quality: 92, auto_subsample: false, chroma_subsample: 1, progressive: false } as const
/** How the encoder names grey and colour. */
const SPACES = { 1: 1, 3: 3 } as const

/**
 * A JPEG of a picture, by the one encoder that browsers and servers share: what is shown before is what is delivered, byte for
 * byte. Throws size-invalid where the encoder's memory does not suffice.
 */
export async function encodeWith(
  encode: typeof encodeWasm,
  pixels: Uint8Array,
  { width, height, channels }: JpegShape,
): Promise<Uint8Array> {
  const data = new Uint8ClampedArray(width * height * 4)
  for (let i = 0; i < width * height; i++) {
    for (let c = 0; c < 3; c++) data[i * 4 + c] = pixels[i * channels + (channels === 3 ? c : 0)]!
    data[i * 4 + 3] = 255
  }
  try {
    const picture = { data, width, height, colorSpace: 'srgb' } as ImageData
    return new Uint8Array(await encode(picture, { ...OPTIONS, color_space: SPACES[channels] as never }))
  } catch (error) {
    throw new GristError(
      'size-invalid',
      `A JPEG of ${width} × ${height} could not be written (${(error as Error).message}). Choose a smaller size or PNG.`,
    )
  }
}

/** What a JPEG holds, interleaved as it went in. */
export async function decodeWith(
  decode: typeof decodeWasm,
  bytes: Uint8Array,
  { width, height, channels }: JpegShape,
): Promise<Uint8Array> {
  const { data } = await decode(new Uint8Array(bytes).buffer)
  const pixels = new Uint8Array(width * height * channels)
  for (let i = 0; i < width * height; i++)
    for (let c = 0; c < channels; c++) pixels[i * channels + c] = data[i * 4 + c]!
  return pixels
}
