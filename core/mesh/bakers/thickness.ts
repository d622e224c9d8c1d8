import { sharedFan, thicknessOf } from '../../kernels/ray-tree'
import type { Baker } from '../baker'

const thickness: Baker = {
  name: 'thickness',
  title: 'Thickness',
  help: 'How far it is to the other side, in metres: the mean over a cone about the way inward.',
  type: 'grey',
  order: 8,
  reads: 'model',
  uses: ['rays', 'bias', 'coneTurns', 'thickest'],
  empty: [0],
  shown: (value, _, { options: { thickest } }) => value / thickest,
  bake: ({ scene, places, options, perTexel, firstNumber, check }) => {
    const fan = {
      ...sharedFan(options.rays, perTexel, options.coneTurns),
      bias: options.bias,
      most: options.thickest,
    }
    return thicknessOf(scene.tree, places, fan, firstNumber, check)
  },
}
export default thickness
