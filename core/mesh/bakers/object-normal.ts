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
    const { places, samples } = context
    const out = new Float32Array(samples.texels.length * 3)
    for (let i = 0; i < samples.texels.length; i++) out.set(places.subarray(i * 6 + 3, i * 6 + 6), i * 3)
    return out
  },
}
export default objectNormal
