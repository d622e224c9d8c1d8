import decode from '@jsquash/jpeg/decode.js'
import encode from '@jsquash/jpeg/encode.js'
import type { JpegShape } from '#core/texture/jpeg-codec'
import { decodeWith, encodeWith } from '../jpeg'

/** A picture as a JPEG leaves it. */
export const throughJpeg = async (pixels: Uint8Array, shape: JpegShape): Promise<Uint8Array> =>
  decodeWith(decode, await encodeWith(encode, pixels, shape), shape)
