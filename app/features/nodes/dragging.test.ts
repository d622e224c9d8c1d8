import { crossesMiddle, pointOf } from './dragging'

const card = { x: 100, y: 50, width: 100, height: 50 }
/** Points along a straight wire. */
const line = (ax: number, ay: number, bx: number, by: number) =>
  Array.from({ length: 41 }, (_, i) => ({ x: ax + ((bx - ax) * i) / 40, y: ay + ((by - ay) * i) / 40 }))

test('a wire through the middle of a card is met, one along its edge or beside it is not', () => {
  expect(crossesMiddle(card, line(0, 75, 300, 75))).toBe(true)
  expect(crossesMiddle(card, line(150, 0, 150, 300))).toBe(true)
  expect(crossesMiddle(card, line(0, 52, 300, 52))).toBe(false)
  expect(crossesMiddle(card, line(0, 120, 300, 120))).toBe(false)
  expect(crossesMiddle(card, [])).toBe(false)
})

test('an end of a gesture is where the mouse or the finger is', () => {
  expect(pointOf({ clientX: 3, clientY: 4 } as MouseEvent)).toEqual([3, 4])
  expect(pointOf({ changedTouches: [{ clientX: 5, clientY: 6 }] } as unknown as TouchEvent)).toEqual([5, 6])
})
