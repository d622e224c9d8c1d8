import sharp from 'sharp'
import type { Rgba } from '../exchange/rgba'

/** A PNG as sharp decodes it, in 8 bits, opacity apart from colour. */
export async function decodePng(png: Uint8Array): Promise<Rgba> {
  const { data, info } = await sharp(png)
    .toColourspace('srgb')
    .ensureAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true })
  return { width: info.width, height: info.height, values: new Uint8Array(data) }
}
