import type { Baker } from '../baker'
import { frameAxis } from '../frames'

const bitangent: Baker = {
  name: 'bitangent',
  title: 'Bitangent',
  help: 'Which way texels go up, in the space of the model: across the normal and the tangent.',
  type: 'vector',
  order: 32,
  rim: 'own',
  reads: 'part',
  uses: [],
  empty: [0, 1, 0],
  shown: (value) => value * 0.5 + 0.5,
  bake: frameAxis('bitangents'),
}
export default bitangent
