import type { Baker } from '../baker'
import { frameAxis } from '../frames'

const lowNormal: Baker = {
  name: 'low-normal',
  title: 'Low normal',
  help: 'Where the low surface faces, in the space of the model, as its corners have it: of length 1 there, shorter between them.',
  type: 'vector',
  order: 33,
  reads: 'part',
  uses: [],
  empty: [0, 0, 1],
  shown: (value) => value * 0.5 + 0.5,
  bake: frameAxis('normals'),
}
export default lowNormal
