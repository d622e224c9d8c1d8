import type { Baker } from '../baker'
import { seenSamples } from '../high'
import { openness } from '../openness'

const bentNormal: Baker = {
  name: 'bent-normal',
  title: 'Bent normal',
  help: 'The mean direction in which the surface is open, in the space of the model, of length 1; its normal where it is not open at all.',
  type: 'normal',
  order: 4,
  reads: 'model',
  uses: ['rays', 'reach', 'fade', 'bias', 'spreadTurns', 'front', 'back', 'rayStep'],
  sparse: true,
  empty: [0, 0, 1],
  bake: (context) => {
    const { places } = seenSamples(context)
    const found = openness(context, 0.25)
    const out = new Float32Array((found.length / 4) * 3)
    for (let i = 0; i < found.length / 4; i++) {
      const sum = found.subarray(i * 4 + 1, i * 4 + 4)
      const length = Math.sqrt(sum[0]! ** 2 + sum[1]! ** 2 + sum[2]! ** 2)
      for (let k = 0; k < 3; k++) out[i * 3 + k] = length > 1e-6 ? sum[k]! / length : places[i * 6 + 3 + k]!
    }
    return out
  },
}
export default bentNormal
