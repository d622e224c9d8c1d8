import { gunzipSync } from 'node:zlib'
import sharp from 'sharp'
import { createField } from '#core/field/field'
import { hashBytes } from '#core/hash'
import { bakerNamed } from '#core/mesh/mesh-data'
import { meshDataBytes } from '#core/mesh/mesh-data-raster'
import { developed } from './developed-mesh-data'

const scale = {
  options: { reach: 1 } as never,
  box: { min: [0, 0, 0], max: [1, 1, 1] },
}

test('what is kept of mesh data: their bytes, the hash of those by another package, pictures', async () => {
  const field = createField('grey', 128, 128)
  field.planes[0]!.forEach((_, i) => (field.planes[0]![i] = (i % 128) / 127))
  const missedAt = new Uint8Array(128 * 128)
  missedAt[128 * 5 + 7] = 1
  const made = await developed({ kind: 'occlusion', field, scale, missedAt })
  const bytes = meshDataBytes(bakerNamed('occlusion'), field)
  expect(Buffer.from(bytes).equals(gunzipSync(made.packed))).toBe(true)
  expect(made.sha256).toBe(hashBytes(bytes))
  const [picture, swatch, missed] = await Promise.all(
    [made.picture, made.swatch, made.missedPicture!].map((png) => sharp(png).metadata()),
  )
  expect([picture!.width, swatch!.width, missed!.width]).toEqual([128, 96, 128])
  const { data } = await sharp(made.missedPicture!).raw().toBuffer({ resolveWithObject: true })
  // Loud where a ray missed, clear elsewhere.
  expect([data[(128 * 5 + 7) * 4 + 3], data[3]]).toEqual([255, 0])
})

test('it is given up when it is not wanted any more', async () => {
  const stop = new AbortController()
  const field = createField('grey', 512, 512)
  const work = developed({ kind: 'occlusion', field, scale }, stop.signal)
  stop.abort()
  await expect(work).rejects.toMatchObject({ code: 'cancelled' })
})
