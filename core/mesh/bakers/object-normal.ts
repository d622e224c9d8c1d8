import type { Baker } from '../baker'
import { highNormals } from '../high'

const objectNormal: Baker = {
  name: 'object-normal',
  title: 'Object normal',
  help: 'Where the surface faces in the space of the model, of length 1; that of the high twin where there is one.',
  type: 'normal',
  order: 2,
  reads: 'model',
  uses: ['front', 'back'],
  empty: [0, 0, 1],
  bake: (context) => {
    if (context.high) return highNormals(context, context.high)
    const { places, samples, room } = context
    const out = room(samples.texels.length * 3)
    for (let i = 0, from = 3; i < out.length; i += 3, from += 6)
      for (let k = 0; k < 3; k++) out[i + k] = places[from + k]!
    return out
  },
}
export default objectNormal
