import { cosTurns, sinTurns } from '../../elementary'
import { anyHits, sharedFan } from '../../kernels/ray-tree'
import type { Baker } from '../baker'

/** Samples whose rays go together. */
const BATCH = 64

/**
 * Irradiance: an even sky over the horizon gives the share of the cosine-weighted hemisphere that is sky and open, the sun its cosine
 * where nothing stands between. A face that looks up under an open sky has 1 of the sky, an upright wall 0.5 (closed form).
 */
const light: Baker = {
  name: 'light',
  title: 'Light',
  help: 'How much light falls on the surface, from an even sky and a sun, with what stands between: 1 is a face that looks into the sun under an open sky.',
  type: 'grey',
  order: 11,
  reads: 'model',
  uses: ['rays', 'bias', 'reach', 'sunHeightTurns', 'sunTurns', 'sunShare'],
  empty: [0],
  bake: ({ places, scene, options, perTexel, firstNumber, check }) => {
    const { rays, bias, reach, sunHeightTurns, sunTurns, sunShare } = options
    const { directions: fan } = sharedFan(rays, perTexel)
    const count = fan.length / 3 / perTexel
    const level = cosTurns(sunHeightTurns)
    const sun = [level * sinTurns(sunTurns), sinTurns(sunHeightTurns), level * cosTurns(sunTurns)]
    const samples = places.length / 6
    const out = new Float32Array(samples)
    const batch = new Float32Array(BATCH * (count + 1) * 7)
    const owners = new Int32Array(BATCH * (count + 1))
    const parts = new Float32Array(BATCH * (count + 1))
    for (let first = 0; first < samples; first += BATCH) {
      check()
      let n = 0
      const add = (i: number, way: readonly number[], share: number, far: number): void => {
        for (let k = 0; k < 3; k++) {
          batch[n * 7 + k] = places[i * 6 + k]! + places[i * 6 + 3 + k]! * bias
          batch[n * 7 + 3 + k] = way[k]!
        }
        batch[n * 7 + 6] = far
        owners[n] = i
        parts[n++] = share
      }
      for (let i = first; i < Math.min(samples, first + BATCH); i++) {
        const normal = [places[i * 6 + 3]!, places[i * 6 + 4]!, places[i * 6 + 5]!] as const
        const towards = normal[0] * sun[0]! + normal[1] * sun[1]! + normal[2] * sun[2]!
        // The sun is far away: all of the model can stand before it.
        if (towards > 0) add(i, sun, sunShare * towards, 1e6)
        const [t, u] = basisOf(normal)
        const own = ((firstNumber + i) % perTexel) * count
        for (let r = own; r < own + count; r++) {
          const [x, y, z] = [fan[r * 3]!, fan[r * 3 + 1]!, fan[r * 3 + 2]!]
          const way = [0, 1, 2].map((k) => t[k]! * x + u[k]! * y + normal[k]! * z)
          if (way[1]! > 0) add(i, way, (1 - sunShare) / count, reach)
        }
      }
      const hits = anyHits(scene.tree, batch.subarray(0, n * 7))
      for (let k = 0; k < n; k++) if (hits[k] === 0) out[owners[k]!]! += parts[k]!
    }
    return out
  },
}
export default light

/** Two directions across a normal. Source: T. Duff and others, "Building an orthonormal basis, revisited", 2017. */
function basisOf([x, y, z]: readonly [number, number, number]): [number[], number[]] {
  const sign = z >= 0 ? 1 : -1
  const a = -1 / (sign + z)
  const b = x * y * a
  return [
    [1 + sign * x * x * a, sign * b, -sign * x],
    [b, sign + y * y * a, -y],
  ]
}
