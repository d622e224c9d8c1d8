import type { RasterImage } from '../field/pyramid'
import { compareMaps, differencePicture, fittingGain, lookedAt, onlyAlphaDiffers, sharedPlanes } from './compare'

const image = (channels: 1 | 2 | 3 | 4, ...values: number[]): RasterImage => ({
  width: values.length / channels,
  height: 1,
  channels,
  bits: 8,
  float: false,
  values: Float32Array.from(values),
})

test('planes that only one has are named and left out', () => {
  const { before, after, added, removed } = sharedPlanes(
    image(3, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6),
    image(4, 0.1, 0.2, 0.3, 1, 0.4, 0.5, 0.6, 0),
  )
  expect([added, removed]).toEqual([['alpha'], []])
  expect(compareMaps(before, after)).toMatchObject({ largest: 0, rms: 0, ratio: 0 })
  const grey = sharedPlanes(image(3, 0.5, 0, 0), image(1, 0.25))
  expect(grey.removed).toEqual(['green', 'blue'])
  expect(compareMaps(grey.before, grey.after).largest).toBeCloseTo(0.25, 6)
})

test('the gain that fits shows what is usual, and does not cut a change of everything off', () => {
  expect(fittingGain({ largest: 1, rms: 0.5 })).toBe(1)
  expect(fittingGain({ largest: 1 / 255, rms: 1 / 255 })).toBe(64)
  // One texel far off leaves the rest to be seen.
  expect(fittingGain({ largest: 1, rms: 0.002 })).toBe(64)
  expect(fittingGain({ largest: 0, rms: 0 })).toBe(256)
})

test('a difference is grey, brighter or darker; of alpha where only that differs', () => {
  const a = image(4, 0.5, 0.5, 0.5, 1, 0.2, 0.2, 0.2, 1)
  const b = image(4, 0.5, 0.5, 0.5, 0.5, 0.2, 0.2, 0.2, 1)
  expect(onlyAlphaDiffers(a, b)).toBe(true)
  expect([...differencePicture(a, b, 1)]).toEqual([64, 64, 64, 255, 128, 128, 128, 255])
  const c = image(4, 0.75, 0.5, 0.25, 0.5, 0.2, 0.2, 0.2, 1)
  expect(onlyAlphaDiffers(a, c)).toBe(false)
  expect([...differencePicture(a, c, 1).subarray(0, 4)]).toEqual([159, 128, 96, 255])
  expect([...lookedAt(image(1, 0.5))]).toEqual([128, 128, 128, 255])
  // Linear 0.5 is encoded as 188 of 255 (IEC 61966-2-1).
  expect([...lookedAt({ ...image(1, 0.5), float: true })]).toEqual([188, 188, 188, 255])
})
