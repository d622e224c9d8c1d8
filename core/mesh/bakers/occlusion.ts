import type { Baker } from '../baker'
import { openness } from '../openness'

const occlusion: Baker = {
  name: 'occlusion',
  title: 'Occlusion',
  help: 'How open the surface is to the light of an even sky: 1 is fully, 0 not at all; rays weighted by the cosine.',
  type: 'grey',
  order: 3,
  reads: 'model',
  uses: ['rays', 'reach', 'fade', 'bias', 'spreadTurns', 'front', 'back'],
  empty: [1],
  bake: (context) => {
    const found = openness(context, context.options.spreadTurns)
    return Float32Array.from({ length: found.length / 4 }, (_, i) => found[i * 4]!)
  },
}
export default occlusion
