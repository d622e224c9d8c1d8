import { createField } from '#core/field/field'
import { hash32, unitFloat } from '#core/random'
import { conspicuousPlace } from './conspicuous'

/** Grey noise of 96 texels a side with one blot. */
function blotted(u: number, v: number, strength: number) {
  const field = createField('colour', 96, 96)
  for (let y = 0; y < 96; y++)
    for (let x = 0; x < 96; x++) {
      const away = [x / 96 - u, y / 96 - v].map((d) => d - Math.round(d))
      const blot = Math.hypot(...away) < 0.05 ? strength : 0
      const grey = 0.3 + 0.02 * unitFloat(hash32(y * 96 + x)) + blot
      for (const plane of field.planes) plane[y * 96 + x] = grey
    }
  return field
}

it.each([
  [0.3, 0.7, 0.2],
  // Over the border of the tile, and darker.
  [0.99, 0.01, -0.15],
])('a blot at %d %d of %d is what shows', (u, v, strength) => {
  const found = conspicuousPlace(blotted(u, v, strength))!
  const away = [found.at[0] - u, found.at[1] - v].map((d) => Math.abs(d - Math.round(d)))
  expect(Math.max(...away)).toBeLessThan(0.05)
  expect(Math.sign(found.lighter)).toBe(Math.sign(strength))
  expect(found.deviations).toBeGreaterThan(5)
})

it('even noise stands out nowhere much, and one colour nowhere at all', () => {
  expect(conspicuousPlace(blotted(0.5, 0.5, 0))!.deviations).toBeLessThan(4)
  const plain = createField('colour', 96, 96)
  expect(conspicuousPlace(plain)).toBeNull()
})
