import { intoFrame } from '../../kernels/frames'
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
    const { samples, places } = context
    const count = samples.texels.length
    const frames = framesOf(context)
    const world = context.high ? highNormals(context, context.high) : null
    const out = context.room(count * 3)
    for (let i = 0; i < count; i++) {
      const at = world ? i * 3 : i * 6 + 3
      const from = world ?? places
      if (Number.isNaN(from[at]!)) out[i * 3] = out[i * 3 + 1] = out[i * 3 + 2] = NaN
      // What a renderer makes of it again: n = x·T + y·B + z·N.
      else intoFrame(frames, i * 9, from[at]!, from[at + 1]!, from[at + 2]!, out, i * 3)
    }
    return out
  },
}
export default normal
