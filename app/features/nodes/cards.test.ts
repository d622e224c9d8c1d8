import type { Card } from './cards'
import { LEGIBLE, viewOf } from './cards'

const card = (x: number, y: number): Card =>
  ({ position: { x, y }, data: { size: { width: 100, height: 40 } } }) as unknown as Card
const [WIDTH, HEIGHT] = [600, 300]

/** Whether all of a card is seen. */
const sees = (view: { x: number; y: number; zoom: number }, { position: { x, y } }: Card): boolean => {
  const [left, top] = [x * view.zoom + view.x, y * view.zoom + view.y]
  return left >= 0 && top >= 0 && left + 100 * view.zoom <= WIDTH && top + 40 * view.zoom <= HEIGHT
}

test('few cards are seen whole in the middle, none is no view', () => {
  const cards = [card(0, 0), card(200, 100)]
  const view = viewOf(cards, WIDTH, HEIGHT, LEGIBLE)!
  expect(view.zoom).toBe(1)
  expect(cards.every((one) => sees(view, one))).toBe(true)
  expect(viewOf([], WIDTH, HEIGHT, LEGIBLE)).toBeNull()
})

test('of a graph that is too tall to be read a card at its end is seen, wherever its middle is', () => {
  const ends = [card(3000, 0), card(3000, 2900)]
  const view = viewOf([card(0, 1500), ...ends], WIDTH, HEIGHT, LEGIBLE)!
  expect(view.zoom).toBe(LEGIBLE)
  expect(ends.some((one) => sees(view, one))).toBe(true)
})
