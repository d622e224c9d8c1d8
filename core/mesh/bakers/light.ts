import { cosTurns, sinTurns } from '../../elementary'
import { anyHits, sharedFan, skylightOf } from '../../kernels/ray-tree'
import type { Baker } from '../baker'
import { seenSamples } from '../high'

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
  uses: ['rays', 'bias', 'reach', 'sunHeightTurns', 'sunTurns', 'sunShare', 'front', 'back', 'rayStep'],
  sparse: true,
  empty: [0],
  bake: (context) => {
    const { scene, perTexel, options } = context
    const { rays, bias, reach, sunHeightTurns, sunTurns, sunShare } = options
    const samples = seenSamples(context)
    const sky = skylightOf(scene.tree, samples, { ...sharedFan(rays, perTexel), bias, most: reach })
    const level = cosTurns(sunHeightTurns)
    const sun = [level * sinTurns(sunTurns), sinTurns(sunHeightTurns), level * cosTurns(sunTurns)]
    const towards = new Float32Array(sky.length * 7)
    const { places } = samples
    for (let i = 0; i < sky.length; i++) {
      for (let k = 0; k < 3; k++) towards[i * 7 + k] = places[i * 6 + k]! + places[i * 6 + 3 + k]! * bias
      towards.set(sun, i * 7 + 3)
      // The sun is far away: all of the model can stand before it.
      towards[i * 7 + 6] = 1e6
    }
    const hidden = anyHits(scene.tree, towards)
    return sky.map((open, i) => {
      const n = i * 6 + 3
      const cosine = places[n]! * sun[0]! + places[n + 1]! * sun[1]! + places[n + 2]! * sun[2]!
      return (1 - sunShare) * open + (cosine > 0 && hidden[i] === 0 ? sunShare * cosine : 0)
    })
  },
}
export default light
