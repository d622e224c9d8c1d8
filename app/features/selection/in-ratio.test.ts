import { inRatio } from './in-ratio'

const cells = { whole: true, min: 1, max: 64 }

it('the other part of a pair keeps its ratio, rounded and held to the range', () => {
  expect(inRatio([8, 8], 0, 12, cells)).toEqual([12, 12])
  expect(inRatio([8, 4], 0, 12, cells)).toEqual([12, 6])
  expect(inRatio([8, 4], 1, 3, cells)).toEqual([6, 3])
  expect(inRatio([8, 32], 0, 40, cells)).toEqual([40, 64])
  expect(inRatio([3, 2], 0, 4, { whole: false, min: 0, max: 9 })[1]).toBeCloseTo(8 / 3, 9)
  expect(inRatio([0, 5], 0, 2, cells)).toEqual([2, 2])
})
