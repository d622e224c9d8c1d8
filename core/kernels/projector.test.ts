import fc from 'fast-check'
import type { Three } from './projector'
import { projectorAxes, towardsProjector } from './projector'

const turn = fc.double({ min: -1, max: 1, noNaN: true })
const near = (a: Three, b: Three): void => a.forEach((v, k) => expect(v).toBeCloseTo(b[k]!, 9))
const dot = (a: Three, b: Three): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]

test('a projector comes from the front, a quarter further from +X, and tilted by a quarter from above', () => {
  const still = { heading: 0, tilt: 0, turn: 0 }
  near(projectorAxes(still).out, [0, 0, 1])
  near(projectorAxes(still).right, [1, 0, 0])
  near(projectorAxes({ ...still, heading: 0.25 }).out, [1, 0, 0])
  near(projectorAxes({ ...still, tilt: 0.25 }).out, [0, 1, 0])
  // Turned in its own plane, counter-clockwise as it is looked at.
  near(projectorAxes({ ...still, turn: 0.25 }).right, [0, 1, 0])
})

test('its directions are at right angles, and those that it turns the model’s by', () => {
  fc.assert(
    fc.property(turn, turn, turn, (heading, tilt, turned) => {
      const place = { heading, tilt, turn: turned }
      const { right, up, out } = projectorAxes(place)
      const toward = towardsProjector(place)
      near(toward(...right), [1, 0, 0])
      near(toward(...up), [0, 1, 0])
      near(toward(...out), [0, 0, 1])
      for (const [a, b] of [
        [right, up],
        [up, out],
        [out, right],
      ] as const)
        expect(dot(a, b)).toBeCloseTo(0, 9)
    }),
  )
})
