import { climbOf } from '../../kernels/ray-tree'
import { hash32, hashInto, unitFloat } from '../../random'
import type { Baker } from '../baker'
import { seenSamples } from '../high'

/** Steps up the surface within the length. */
const STEPS = 24
/** A surface that faces up so much holds water; less than this of "up" lies in one that is level. */
const LEVEL = 0.7

/**
 * Each sample is followed up the surface: a step along it, then back onto it. It ends where something stands out over it, where the
 * surface becomes level (water stands there and runs over the edge), or where it is gone (the rim of a hollow). What is nearer to that
 * end has more.
 */
const leaks: Baker = {
  name: 'leaks',
  title: 'Leaks',
  help: 'Runs of water below ledges, level places and the rims of hollows: 1 where they begin, falling to 0 at their length, which differs from place to place.',
  type: 'grey',
  order: 10,
  reads: 'model',
  uses: ['bias', 'leakLength', 'leakVariation', 'front', 'back', 'rayStep'],
  sparse: true,
  empty: [0],
  bake: (context) => {
    const { scene, options } = context
    const { bias, leakLength, leakVariation } = options
    const samples = seenSamples(context)
    const step = leakLength / STEPS
    const climbed = climbOf(scene.tree, scene.mesh, samples, { steps: STEPS, step, bias, level: LEVEL })
    for (let i = 0; i < climbed.length; i++) {
      if (i % 16384 === 0) context.check()
      const far = climbed[i]!
      // Nothing is above most of them.
      const length = far > 0 ? leakLength * (1 - leakVariation * streak(samples.places, i * 6, step * 2)) : 0
      climbed[i] = far < length ? 1 - far / length : 0
    }
    return climbed
  },
}
export default leaks

/** A number of 0–1 that differs sideways and not downward, in cells of `size` metres, smoothly. */
function streak(places: Float32Array, at: number, size: number): number {
  const [u, w] = [places[at]! / size, places[at + 2]! / size]
  const [i, j] = [Math.floor(u), Math.floor(w)]
  const smooth = (t: number): number => t * t * (3 - 2 * t)
  const [s, t] = [smooth(u - i), smooth(w - j)]
  const value = (a: number, b: number): number => unitFloat(hashInto(hash32(a), b))
  const near = value(i, j) + (value(i + 1, j) - value(i, j)) * s
  const far = value(i, j + 1) + (value(i + 1, j + 1) - value(i, j + 1)) * s
  return near + (far - near) * t
}
