import type { Baker } from '../baker'
import { highHits } from '../high'

const height: Baker = {
  name: 'height',
  title: 'Height',
  help: 'How far the high twin lies outside of the low surface along its normal, in metres; negative inside.',
  type: 'grey',
  order: 9,
  reads: 'model',
  uses: ['front', 'back'],
  empty: [0],
  needsHigh: true,
  shown: (value, _, { options: { front } }) => 0.5 + value / (2 * front),
  bake: (context) => highHits(context, context.high!).heights,
}
export default height
