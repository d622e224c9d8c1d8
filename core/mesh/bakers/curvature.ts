import { lookAround } from '../around'
import type { Baker } from '../baker'

const curvature: Baker = {
  name: 'curvature',
  title: 'Curvature',
  help: 'How much the surface bends within the radius, in 1/m: positive where it bulges, negative where it is hollow.',
  type: 'grey',
  order: 5,
  reads: 'model',
  uses: ['radius', 'front', 'back'],
  empty: [0],
  shown: (value, _, { options: { radius } }) => 0.5 + (value * radius) / 2,
  bake: (context) => lookAround(context).filter((_, i) => i % 4 === 0),
}
export default curvature
