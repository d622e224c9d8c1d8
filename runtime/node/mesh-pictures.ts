import sharp from 'sharp'
import type { Field } from '#core/field/field'
import type { Baker, ShownScale } from '#core/mesh/baker'
import { meshDataPicture } from '#core/mesh/mesh-data-raster'

/** Sides of the pictures of mesh data: as the layout view and the model show them, and in the cells of the sheet. */
const SIDES = { picture: 512, swatch: 96 }

/** A colour that no mesh data have. */
const LOUD = [224, 0, 255, 255]

/** Mesh data as PNG of at most `side` texels; the whole where none is given. Numbers are not mixed. */
export const meshDataPng = (baker: Baker, field: Field, scale: ShownScale, side?: number): Promise<Buffer> =>
  pngOf(meshDataPicture(baker, field, scale), baker, field, side)

function pngOf(pixels: Uint8Array, baker: Baker, { width, height }: Field, side?: number): Promise<Buffer> {
  const whole = sharp(pixels, { raw: { width, height, channels: 3 } })
  const sized =
    side === undefined || side >= width
      ? whole
      : whole.resize(side, side, { kernel: baker.type === 'id' ? 'nearest' : 'lanczos3' })
  return sized.png({ compressionLevel: 6 }).toBuffer()
}

/** Texels that were missed as a picture to lay over the others, loud and else clear; a texel of it is missed where any of its own is. */
export async function missedPng(missed: Uint8Array, width: number): Promise<Buffer> {
  const side = Math.min(width, SIDES.picture)
  const each = width / side
  const pixels = new Uint8Array(side * side * 4)
  missed.forEach((is, i) => {
    if (!is) return
    const at = Math.floor(Math.floor(i / width) / each) * side + Math.floor((i % width) / each)
    pixels.set(LOUD, at * 4)
  })
  return sharp(pixels, { raw: { width: side, height: side, channels: 4 } })
    .png()
    .toBuffer()
}

export async function meshDataPictures(
  baker: Baker,
  field: Field,
  scale: ShownScale,
): Promise<{ picture: Buffer; swatch: Buffer }> {
  const pixels = meshDataPicture(baker, field, scale)
  const [picture, swatch] = await Promise.all(
    [SIDES.picture, SIDES.swatch].map((side) => pngOf(pixels, baker, field, side)),
  )
  return { picture: picture!, swatch: swatch! }
}
