import * as THREE from 'three'
import { TILES_AROUND, bodyAt } from './body'
import { SIZES, around, instancesOf, surfaceAt } from './surface'

/** Places of the shapes, against the geometries of three.js. */
const REPEAT = 2
const ASPECT = 0.5
const made = {
  sphere: new THREE.SphereGeometry(1, 16, 8),
  cube: new THREE.BoxGeometry(SIZES.cube, SIZES.cube, SIZES.cube),
  plane: new THREE.PlaneGeometry(SIZES.plane, SIZES.plane * ASPECT, 4, 4),
  cylinder: new THREE.CylinderGeometry(
    SIZES.cylinder.radius,
    SIZES.cylinder.radius,
    SIZES.cylinder.height,
    12,
    2,
    true,
  ),
} as const

it.each(Object.keys(made) as (keyof typeof made)[])(
  'every corner of a %s is where its place of the tile says',
  (shape) => {
    const geometry = made[shape]
    const [position, uv, normal] = (['position', 'uv', 'normal'] as const).map((name) => geometry.getAttribute(name))
    const laps = REPEAT * around(shape)
    let met = 0
    for (let i = 0; i < position!.count; i++) {
      // The place within an instance, and which instance that is.
      const [s, t] = [uv!.getX(i) * laps, (1 - uv!.getY(i)) * REPEAT]
      const across = Math.min(laps - 1, Math.floor(s))
      const down = Math.min(REPEAT - 1, Math.floor(t))
      const found = Array.from({ length: instancesOf(shape, REPEAT) }, (_, instance) =>
        surfaceAt(shape, instance, s - across, t - down, REPEAT, ASPECT),
      ).some(({ at, normal: own }) => {
        const away = Math.hypot(at[0] - position!.getX(i), at[1] - position!.getY(i), at[2] - position!.getZ(i))
        const turned = own[0] * normal!.getX(i) + own[1] * normal!.getY(i) + own[2] * normal!.getZ(i)
        return away < 1e-5 && turned > 0.99
      })
      if (found) met++
    }
    expect(met).toBe(position!.count)
  },
)

it('a place of the body is where the body says, on the instance that holds it, and above its rim nowhere', () => {
  const instances = instancesOf('body', REPEAT)
  const found = Array.from({ length: instances }, (_, instance) => surfaceAt('body', instance, 0.25, 0.01, REPEAT, 1))
  const held = found.filter(({ normal }) => Math.hypot(...normal) > 0)
  expect(held.length).toBeGreaterThanOrEqual(REPEAT * TILES_AROUND)
  expect(found.length).toBeGreaterThan(held.length)
  expect(found[0]).toEqual(bodyAt(0.25 / REPEAT, 0.99 / REPEAT))
  expect(found[REPEAT * TILES_AROUND + 1]).toEqual(bodyAt(1.25 / REPEAT, 1.99 / REPEAT))
})
