import { linearToOklab, oklabToLinear } from '../colour/oklab'
import { randomNumbers } from '../testing/random-values'
import { cubeRoot, linearOf, oklabOf } from './oklab-tones'

test('the cube root is the platform’s within 3e-7 of its value, at all exponents, and odd', () => {
  const random = randomNumbers(3)
  expect(cubeRoot(0)).toBe(0)
  let worst = 0
  let uneven = 0
  for (let exponent = -126; exponent <= 60; exponent++)
    for (let i = 0; i < 300; i++) {
      const v = Math.fround(2 ** exponent * (1 + random()))
      worst = Math.max(worst, Math.abs(cubeRoot(v) / Math.cbrt(v) - 1))
      if (cubeRoot(-v) !== -cubeRoot(v)) uneven++
    }
  expect(worst).toBeLessThan(3e-7)
  expect(uneven).toBe(0)
  expect(worst).toBeGreaterThan(1e-8)
})

test('to Oklab and back is what float64 gives, within 8e-7 of colours from 0 to 1', () => {
  const random = randomNumbers(4)
  let there = 0
  let back = 0
  for (let i = 0; i < 3000; i++) {
    const colour = [random(), random(), random()].map(Math.fround) as [number, number, number]
    const [ours, exact] = [oklabOf(...colour), linearToOklab(colour)]
    ours.forEach((v, p) => (there = Math.max(there, Math.abs(v - exact[p]!))))
    linearOf(...ours).forEach((v, p) => (back = Math.max(back, Math.abs(v - oklabToLinear(ours)[p]!))))
  }
  expect(there).toBeLessThan(8e-7)
  expect(back).toBeLessThan(3e-6)
})
