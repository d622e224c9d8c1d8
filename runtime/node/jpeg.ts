import sharp from 'sharp'
import type { EncodeJpeg } from '#core/formats/jpeg'

/** A JPEG of high quality, colour in full resolution. The same picture gives the same bytes. */
export const encodeJpeg: EncodeJpeg = async (pixels, { width, height, channels }) =>
  sharp(pixels, { raw: { width, height, channels }, limitInputPixels: false })
    .jpeg({ quality: 92, chromaSubsampling: '4:4:4' })
    .toBuffer()
