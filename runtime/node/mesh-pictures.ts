import sharp from 'sharp'
import type { Field } from '#core/field/field'
import type { Baker, ShownScale } from '#core/mesh/baker'
import { meshDataPicture } from '#core/mesh/mesh-data-raster'

/** Sides of the pictures of mesh data: as the layout view and the model show them, and in the cells of the sheet. */
const SIDES = { picture: 512, swatch: 96 }

/** Mesh data as PNG of at most `side` texels; the whole where none is given. Numbers are not mixed. */
export async function meshDataPng(baker: Baker, field: Field, scale: ShownScale, side?: number): Promise<Buffer> {
  const { width, height } = field
  const whole = sharp(meshDataPicture(baker, field, scale), { raw: { width, height, channels: 3 } })
  const sized =
    side === undefined || side >= width
      ? whole
      : whole.resize(side, side, { kernel: baker.type === 'id' ? 'nearest' : 'lanczos3' })
  return sized.png({ compressionLevel: 6 }).toBuffer()
}

export async function meshDataPictures(
  baker: Baker,
  field: Field,
  scale: ShownScale,
): Promise<{ picture: Buffer; swatch: Buffer }> {
  return {
    picture: await meshDataPng(baker, field, scale, SIDES.picture),
    swatch: await meshDataPng(baker, field, scale, SIDES.swatch),
  }
}
