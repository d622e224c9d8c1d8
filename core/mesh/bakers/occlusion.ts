import type { Baker } from '../baker'
import { openness } from '../openness'

const occlusion: Baker = {
  name: 'occlusion',
  title: 'Occlusion',
  help: 'How open the surface is to the light of an even sky: 1 is fully, 0 not at all; rays weighted by the cosine.',
  type: 'grey',
  order: 3,
  reads: 'model',
  uses: ['rays', 'reach', 'fade', 'bias', 'spreadTurns', 'front', 'back', 'rayStep'],
  sparse: true,
  empty: [1],
  bake: (context) => {
    const found = openness(context, context.options.spreadTurns)
    const out = context.room(found.length / 5)
    for (let i = 0; i < out.length; i++) out[i] = found[i * 5]!
    return out
  },
}
export default occlusion
