import { handleNear } from './handle-area'

const square = { width: 200, height: 200 }
const bar = { width: 400, height: 28 }

test('a press takes the handle it is on, the nearer of two, and none from afar', () => {
  const points = [
    { x: 0, y: 0 },
    { x: 0.5, y: 0.5 },
    { x: 0.53, y: 0.5 },
  ]
  expect(handleNear(points, { x: 0.5, y: 0.51 }, square)).toBe(1)
  expect(handleNear(points, { x: 0.52, y: 0.5 }, square)).toBe(2)
  expect(handleNear(points, { x: 0.5, y: 0.6 }, square)).toBe(-1)
  expect(handleNear([], { x: 0.5, y: 0.5 }, square)).toBe(-1)
})

test('on a bar only the place along it counts', () => {
  const stops = [{ x: 0 }, { x: 1 }]
  expect(handleNear(stops, { x: 0.99, y: 0 }, bar)).toBe(1)
  expect(handleNear(stops, { x: 0.99, y: 1 }, bar)).toBe(1)
  expect(handleNear(stops, { x: 0.9, y: 0.5 }, bar)).toBe(-1)
})
