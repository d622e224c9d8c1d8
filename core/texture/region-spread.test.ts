import type { RasterImage } from '../field/pyramid'
import { randomNumbers } from '../testing/random-values'
import { regionSpreads } from './region-spread'

const SIDE = 40
const image = (channels: 1 | 3, texel: (x: number, y: number) => number[]): RasterImage => ({
  ...{ width: SIDE, height: SIDE, channels, bits: 8, float: false },
  values: Float32Array.from(
    Array.from({ length: SIDE * SIDE }, (_, i) => texel(i % SIDE, Math.floor(i / SIDE))).flat(),
  ),
})
const red = [1, 0, 0]
const blue = [0, 0.2, 1]

test('mean and deviation within each colour of an ID image, the largest first', () => {
  const ids = image(3, (x) => (x < 10 ? red : blue))
  const next = randomNumbers(1)
  // Left even at .25, right from .4 to .6: a uniform spread of .2 deviates by .2/√12.
  const rough = image(1, (x) => [x < 10 ? 0.25 : 0.4 + 0.2 * next()])
  const [first, second, ...more] = regionSpreads([ids], [{ image: [rough], plane: 0, inverted: false }])
  expect(more).toEqual([])
  expect([first!.ratio, second!.colour, second!.ratio]).toEqual([0.75, '#ff0000', 0.25])
  expect(second!.spreads[0]!.mean).toBeCloseTo(0.25, 6)
  expect(second!.spreads[0]!.deviation).toBeLessThan(1e-4)
  expect(first!.spreads[0]!.mean).toBeCloseTo(0.5, 1)
  expect(Math.abs(first!.spreads[0]!.deviation - 0.2 / Math.sqrt(12))).toBeLessThan(0.004)
})

test('a mask has what is dark and what is light; an inverted plane is read as it counts', () => {
  const mask = image(1, (x) => [x < 30 ? 0.1 : 0.7])
  const gloss = image(3, (x) => [0, x < 30 ? 0.9 : 0.3, 0])
  const found = regionSpreads([mask], [{ image: [gloss], plane: 1, inverted: true }])
  expect(found.map(({ colour, ratio }) => [colour, ratio])).toEqual([
    ['#000000', 0.75],
    ['#ffffff', 0.25],
  ])
  expect(found[0]!.spreads[0]!.mean).toBeCloseTo(0.1, 5)
  expect(found[1]!.spreads[0]!.mean).toBeCloseTo(0.7, 5)
})

test('colours that hardly occur are left out', () => {
  const ids = image(3, (x, y) => (x === 0 && y < 5 ? [0, 1, 0] : red))
  expect(regionSpreads([ids], []).map(({ colour }) => colour)).toEqual(['#ff0000'])
})
