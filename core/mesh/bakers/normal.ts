import type { Baker } from '../baker'
import { highNormals } from '../high'

/** Source: glTF 2.0, 3.7.2.1 and 3.9.3: the frame is not renormalised after it is interpolated. */
const normal: Baker = {
  name: 'normal',
  title: 'Tangent normal',
  help: 'Where the high twin faces, seen from the low surface: x along the tangent, y along the bitangent (up), z outward.',
  type: 'normal',
  order: 1,
  reads: 'model',
  uses: ['front', 'back'],
  empty: [0, 0, 1],
  bake: (context) => {
    const { surface, samples, places } = context
    const count = samples.texels.length
    const frames = surface.framesOf(samples)
    const world = context.high ? highNormals(context, context.high) : null
    const out = new Float32Array(count * 3)
    for (let i = 0; i < count; i++) {
      const [x, y, z] = world
        ? [world[i * 3]!, world[i * 3 + 1]!, world[i * 3 + 2]!]
        : [places[i * 6 + 3]!, places[i * 6 + 4]!, places[i * 6 + 5]!]
      const f = frames.subarray(i * 9, i * 9 + 9)
      // What a renderer makes of it again: n = x·T + y·B + z·N. So the frame's inverse: cross products over the determinant.
      const cross = (a: number, b: number): [number, number, number] => [
        f[a + 1]! * f[b + 2]! - f[a + 2]! * f[b + 1]!,
        f[a + 2]! * f[b]! - f[a]! * f[b + 2]!,
        f[a]! * f[b + 1]! - f[a + 1]! * f[b]!,
      ]
      const [bn, nt, tb] = [cross(3, 6), cross(6, 0), cross(0, 3)]
      const determinant = f[0]! * bn[0] + f[1]! * bn[1] + f[2]! * bn[2]
      const parts = [bn, nt, tb].map((row) => (row[0] * x + row[1] * y + row[2] * z) / determinant)
      const length = Math.sqrt(parts.reduce((sum, v) => sum + v * v, 0))
      for (let k = 0; k < 3; k++)
        out[i * 3 + k] = length > 0 ? parts[k]! / length : Number.isNaN(x) ? NaN : k === 2 ? 1 : 0
    }
    return out
  },
}
export default normal
