import { lampTowards, raking } from './lights'

const near = (found: number[], wanted: number[]): void => found.forEach((v, i) => expect(v).toBeCloseTo(wanted[i]!, 6))

it('a lamp in the middle of the sky is overhead, one at its rim low over the horizon', () => {
  near(lampTowards({ at: [0, 0] }, false), [0, 1, 0])
  near(lampTowards({ at: [0, 0] }, true), [0, 0, 1])
  const [x, up, z] = lampTowards({ at: [2, 0] }, false)
  near([x, up, z], [Math.cos((4 * Math.PI) / 180), Math.sin((4 * Math.PI) / 180), 0])
})

it('up on the map is away from a shape, and up in the flat view', () => {
  near(lampTowards({ at: [0, 0.6] }, false), [0, 0.8, -0.6])
  near(lampTowards({ at: [0, 0.6] }, true), [0, 0.6, 0.8])
})

it('raking keeps the side a lamp is on', () => {
  near(raking({ at: [0, 0.1] }), [0, 0.98])
  near(raking({ at: [0, 0] }), [-0.98, 0])
})
