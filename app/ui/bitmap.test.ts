import { readWithOiio } from '#core/testing/oiio'
import { bitmapOf } from './bitmap'

// Widths whose rows need 1, 2, 3 and no bytes of padding.
it.each([5, 6, 7, 8])('is read by OpenImageIO as it was, %i texels wide', async (width) => {
  const height = 3
  const pixels = Uint8ClampedArray.from({ length: width * height * 4 }, (_, i) =>
    i % 4 === 3 ? 255 : (Math.imul(i + 1, 2654435761) >>> 24) & 255,
  )
  const { info, planes } = readWithOiio(new Uint8Array(await bitmapOf({ width, height, pixels }).arrayBuffer()), 'bmp')
  expect(info).toContain(`${width} x    ${height}, 3 channel, uint8 bmp`)
  planes.forEach((plane, c) =>
    expect(Array.from(plane, (v) => Math.round(v * 255))).toEqual([...pixels].filter((_, i) => i % 4 === c)),
  )
})
