import { coneDirections, opennessOf } from '../../kernels/ray-tree'
import type { Baker } from '../baker'

const occlusion: Baker = {
  name: 'occlusion',
  title: 'Occlusion',
  help: 'How open the surface is to the light of an even sky: 1 is fully, 0 not at all; rays weighted by the cosine.',
  type: 'grey',
  empty: [1],
  bake: ({ scene, places, options, firstNumber, check }) => {
    const fan = {
      directions: coneDirections(options.rays, options.spreadTurns),
      bias: options.bias,
      most: options.reach,
      fade: options.fade,
    }
    const found = opennessOf(scene.tree, places, fan, firstNumber, check)
    return Float32Array.from({ length: found.length / 4 }, (_, i) => found[i * 4]!)
  },
}
export default occlusion
