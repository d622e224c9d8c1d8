import { hashInto, unitFloat } from '../random'
import { randomNumbers } from '../testing/random-values'
import { solidCell } from './solid-cells'

/** The two nearest points of all cells within three of a place, one after the other. */
function byHand(seed: number, jitter: number, [x, y, z]: readonly [number, number, number]): [number, number] {
  const found: number[] = []
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)]
  for (let c = k - 3; c <= k + 3; c++)
    for (let b = j - 3; b <= j + 3; b++)
      for (let a = i - 3; a <= i + 3; a++) {
        const hash = hashInto(hashInto(hashInto(seed, c), b), a)
        const at = (cell: number, axis: number): number => cell + 0.5 + jitter * (unitFloat(hashInto(hash, axis)) - 0.5)
        found.push(Math.hypot(at(a, 1) - x, at(b, 2) - y, at(c, 3) - z))
      }
  const [first, second] = found.sort((p, q) => p - q)
  return [first!, second!]
}

test('the two nearest points are those of all cells around, also where they stray as far as they may', () => {
  const random = randomNumbers(3)
  for (let n = 0; n < 1500; n++) {
    const place = [random() * 40 - 20, random() * 40 - 20, random() * 40 - 20] as const
    const jitter = n % 3 === 0 ? random() : 1
    const cell = solidCell(n, jitter, place[0], place[1], place[2], { nearest: 0, second: 0, hash: 0 })
    const [first, second] = byHand(n, jitter, place)
    expect(cell.nearest).toBeCloseTo(first, 10)
    expect(cell.second).toBeCloseTo(second, 10)
  }
})

test('a second nearest point two cells away is found: three in 100 000 places have one', () => {
  const places = [
    [-13.99245023727417, 11.138648986816406, 8.29857349395752],
    [-10.883381366729736, -6.794779300689697, 5.9439802169799805],
    [-11.04651689529419, 9.038825035095215, 14.829699993133545],
  ] as const
  for (const place of places) {
    const cell = solidCell(5, 1, place[0], place[1], place[2], { nearest: 0, second: 0, hash: 0 })
    const [first, second] = byHand(5, 1, place)
    expect([cell.nearest, cell.second]).toEqual([expect.closeTo(first, 10), expect.closeTo(second, 10)])
  }
})
