import { cosTurns, sinTurns } from '../../elementary'
import { anyHits } from '../../kernels/ray-tree'
import type { Baker } from '../baker'
import { seenSamples } from '../high'
import { skylight } from '../openness'

/** Samples whose way to the sun is looked at in one go. */
const RUN = 8192

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
    const { scene, options } = context
    const { bias, sunHeightTurns, sunTurns, sunShare } = options
    const samples = seenSamples(context)
    const sky = skylight(context)
    const level = cosTurns(sunHeightTurns)
    const sun = [level * sinTurns(sunTurns), sinTurns(sunHeightTurns), level * cosTurns(sunTurns)]
    const { places } = samples
    const out = context.room(sky.length)
    /** Rays to the sun, of a run of samples at a time: of those alone that face it. */
    const towards = new Float32Array(RUN * 7)
    const facing = new Uint32Array(RUN)
    for (let first = 0; first < sky.length; first += RUN) {
      let count = 0
      for (let i = first; i < Math.min(sky.length, first + RUN); i++) {
        out[i] = (1 - sunShare) * sky[i]!
        const n = i * 6 + 3
        if (places[n]! * sun[0]! + places[n + 1]! * sun[1]! + places[n + 2]! * sun[2]! <= 0) continue
        facing[count] = i
        const at = count++ * 7
        for (let k = 0; k < 3; k++) {
          towards[at + k] = places[i * 6 + k]! + places[n + k]! * bias
          towards[at + 3 + k] = sun[k]!
        }
        // The sun is far away: all of the model can stand before it.
        towards[at + 6] = 1e6
      }
      const hidden = anyHits(scene.tree, towards.subarray(0, count * 7), context.check)
      for (let f = 0; f < count; f++) {
        const i = facing[f]!
        const n = i * 6 + 3
        if (hidden[f] === 0)
          out[i] =
            (1 - sunShare) * sky[i]! +
            sunShare * (places[n]! * sun[0]! + places[n + 1]! * sun[1]! + places[n + 2]! * sun[2]!)
      }
    }
    return out
  },
}
export default light
