import { sharedFan, thicknessOf } from '../../kernels/ray-tree'
import type { Baker } from '../baker'
import { seenSamples } from '../high'

const thickness: Baker = {
  name: 'thickness',
  title: 'Thickness',
  help: 'How far it is to the other side, in metres: the mean over a cone about the way inward.',
  type: 'grey',
  order: 8,
  reads: 'model',
  uses: ['rays', 'bias', 'coneTurns', 'thickest', 'front', 'back', 'rayStep'],
  sparse: true,
  empty: [0],
  shown: (value, _, { options: { thickest } }) => value / thickest,
  bake: (context) => {
    const { rays, coneTurns, bias, thickest } = context.options
    const fan = { ...sharedFan(rays, context.perTexel, coneTurns), bias, most: thickest }
    return thicknessOf(context.scene.tree, seenSamples(context), fan)
  },
}
export default thickness
