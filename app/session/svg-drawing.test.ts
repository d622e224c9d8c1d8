import { drawnSize, isSvg } from './svg-drawing'

it('tells SVG files by their type or their name', () => {
  expect(isSvg({ name: 'plate.SVG', type: '' })).toBe(true)
  expect(isSvg({ name: 'plate', type: 'image/svg+xml' })).toBe(true)
  expect(isSvg({ name: 'plate.svg.png', type: 'image/png' })).toBe(false)
})

it('draws them in their shape, 2048 along the longer side', () => {
  expect(drawnSize(100, 50)).toEqual({ width: 2048, height: 1024 })
  expect(drawnSize(3, 9)).toEqual({ width: 683, height: 2048 })
  expect(drawnSize(1, 5000)).toEqual({ width: 16, height: 2048 })
})
