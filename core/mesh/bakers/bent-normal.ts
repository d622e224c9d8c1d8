import type { Baker } from '../baker'
import { seenSamples } from '../high'
import { HEMISPHERE, openness } from '../openness'

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
    const found = openness(context, HEMISPHERE)
    const out = context.room((found.length / 5) * 3)
    for (let i = 0; i < found.length / 5; i++) {
      const at = i * 5 + 1
      const length = Math.sqrt(found[at]! ** 2 + found[at + 1]! ** 2 + found[at + 2]! ** 2)
      for (let k = 0; k < 3; k++) out[i * 3 + k] = length > 1e-6 ? found[at + k]! / length : places[i * 6 + 3 + k]!
    }
    return out
  },
}
export default bentNormal
