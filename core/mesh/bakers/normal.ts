import { intoTangentFrames } from '../../kernels/tangent-frames'
import type { Baker } from '../baker'
import { framesOf } from '../frames'
import { highNormals } from '../high'

/** Source: glTF 2.0, 3.7.2.1 and 3.9.3: the frame is not renormalised after it is interpolated. */
const normal: Baker = {
  name: 'normal',
  title: 'Tangent normal',
  help: 'Where the high twin faces, seen from the low surface: x along the tangent, y along the bitangent (up), z outward.',
  type: 'normal',
  order: 1,
  rim: 'turned',
  reads: 'model',
  uses: ['front', 'back'],
  empty: [0, 0, 1],
  bake: (context) => {
    const { places, high, room } = context
    const frames = framesOf(context)
    if (high) return intoTangentFrames(frames, highNormals(context, high), { from: 0, apart: 3 }, room)
    return intoTangentFrames(frames, places, { from: 3, apart: 6 }, room)
  },
}
export default normal
