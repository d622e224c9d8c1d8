import { lookAround } from '../around'
import type { Baker } from '../baker'

const curvature: Baker = {
  name: 'curvature',
  title: 'Curvature',
  help: 'How much the surface bends within the radius, in 1/m: positive where it bulges, negative where it is hollow.',
  type: 'grey',
  order: 5,
  reads: 'model',
  uses: ['radius', 'front', 'back', 'rayStep'],
  sparse: true,
  empty: [0],
  shown: (value, _, { options: { radius } }) => 0.5 + (value * radius) / 2,
  bake: (context) => {
    const around = lookAround(context)
    const out = context.room(around.length / 4)
    for (let i = 0; i < out.length; i++) out[i] = around[i * 4]!
    return out
  },
}
export default curvature
