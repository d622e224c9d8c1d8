import type { Baker } from '../baker'
import { frameAxis } from '../frames'

const tangent: Baker = {
  name: 'tangent',
  title: 'Tangent',
  help: 'Which way texels go across, in the space of the model, as its corners have it: of length 1 there, shorter between them.',
  type: 'vector',
  order: 31,
  rim: 'own',
  reads: 'part',
  uses: [],
  empty: [1, 0, 0],
  shown: (value) => value * 0.5 + 0.5,
  bake: frameAxis('tangents'),
}
export default tangent
