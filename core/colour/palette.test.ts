import fc from 'fast-check'
import { paletteOf } from './palette'

const picture = (...texels: (readonly [number, number, number, number?])[]) =>
  Uint8ClampedArray.from(texels.flatMap(([r, g, b, a = 255]) => [r, g, b, a]))

it('finds the colours that are there, most of it first; what is clear has none', () => {
  const pixels = picture([200, 0, 0], [200, 0, 0], [0, 0, 90], [200, 0, 0], [9, 9, 9, 20])
  expect(paletteOf(pixels, 4)).toEqual([
    { hex: '#c80000', share: 0.75 },
    { hex: '#00005a', share: 0.25 },
  ])
  expect(paletteOf(picture([1, 2, 3, 0]), 4)).toEqual([])
})

it('shares add up to all of it, and no more colours come than were asked for', () => {
  const byte = fc.integer({ min: 0, max: 255 })
  fc.assert(
    fc.property(
      fc.array(fc.tuple(byte, byte, byte), { minLength: 1, maxLength: 80 }),
      fc.integer({ min: 1, max: 8 }),
      (texels, count) => {
        const found = paletteOf(picture(...texels), count)
        expect(found.length).toBeLessThanOrEqual(count)
        expect(found.reduce((sum, { share }) => sum + share, 0)).toBeCloseTo(1, 9)
        expect(found.map(({ share }) => share)).toEqual(found.map(({ share }) => share).sort((a, b) => b - a))
      },
    ),
  )
})
