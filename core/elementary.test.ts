import fc from 'fast-check'
import { atan2Turns, cbrt, cosTurns, exp, exp2, log2, pow, sinTurns } from './elementary'

/** The outside truth here is the platform's own mathematics, correct to about 1 unit in the last place of float64. */
const near = (ours: number, theirs: number, relative = 1e-12) =>
  expect(Math.abs(ours - theirs)).toBeLessThanOrEqual(relative * Math.max(Math.abs(theirs), 1e-300))

const check = (property: fc.IPropertyWithHooks<unknown[]>) => fc.assert(property as never, { seed: 11, numRuns: 4000 })
const finite = (min: number, max: number) => fc.double({ min, max, noNaN: true })

test('exp2, exp', () => {
  check(fc.property(finite(-1000, 1000), (x) => near(exp2(x), 2 ** x)) as never)
  check(fc.property(finite(-300, 300), (x) => near(exp(x), Math.exp(x), 1e-11)) as never)
  expect(exp2(0)).toBe(1)
  expect(exp2(10)).toBe(1024)
  expect(exp2(1024)).toBe(Infinity)
  expect(exp2(-2000)).toBe(0)
  expect(exp2(NaN)).toBeNaN()
})

test('log2', () => {
  check(
    fc.property(finite(1e-300, 1e300), (x) =>
      near(log2(x), Math.log2(x), 1e-12 + 1e-13 / Math.abs(Math.log2(x) || 1)),
    ) as never,
  )
  for (let k = -1000; k <= 1000; k += 37) expect(log2(2 ** k)).toBe(k)
  expect(log2(5e-324)).toBeCloseTo(-1074, 9)
  expect(log2(0)).toBe(-Infinity)
  expect(log2(-1)).toBeNaN()
})

test('pow', () => {
  check(fc.property(finite(1e-6, 1e6), finite(-20, 20), (x, y) => near(pow(x, y), x ** y, 1e-11)) as never)
  expect(pow(0, 2)).toBe(0)
  expect(pow(0, 0)).toBe(1)
  expect(pow(1, 1e9)).toBe(1)
})

test('cbrt is odd and exact on cubes', () => {
  check(fc.property(finite(-1e9, 1e9), (x) => near(cbrt(x), Math.cbrt(x))) as never)
  expect(cbrt(27)).toBe(3)
  expect(cbrt(-0.008)).toBeCloseTo(-0.2, 15)
})

test('sine and cosine of turns', () => {
  check(
    fc.property(finite(-3, 3), (t) => {
      expect(Math.abs(sinTurns(t) - Math.sin(2 * Math.PI * t))).toBeLessThan(1e-14)
      expect(Math.abs(cosTurns(t) - Math.cos(2 * Math.PI * t))).toBeLessThan(1e-14)
    }) as never,
  )
  expect(sinTurns(0.25)).toBeCloseTo(1, 15)
  expect(sinTurns(0.5)).toBeCloseTo(0, 15)
})

test('atan2 in turns', () => {
  check(
    fc.property(finite(-1e3, 1e3), finite(-1e3, 1e3), (y, x) => {
      if (x === 0 && y === 0) return
      const apart = atan2Turns(y, x) - Math.atan2(y, x) / (2 * Math.PI)
      expect(Math.abs(apart - Math.round(apart))).toBeLessThan(1e-14) // ½ and −½ are one direction
    }) as never,
  )
  expect(atan2Turns(0, 0)).toBe(0)
  expect(atan2Turns(0, -1)).toBe(0.5)
  expect(atan2Turns(-1, 0)).toBe(-0.25)
})
