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
    const out = context.room(count * 3)
    for (let i = 0; i < count; i++) {
      const at = world ? i * 3 : i * 6 + 3
      const from = world ?? places
      const [x, y, z] = [from[at]!, from[at + 1]!, from[at + 2]!]
      // What a renderer makes of it again: n = x·T + y·B + z·N. So the frame's inverse: cross products over the determinant.
      const f = i * 9
      const [tx, ty, tz] = [frames[f]!, frames[f + 1]!, frames[f + 2]!]
      const [bx, by, bz] = [frames[f + 3]!, frames[f + 4]!, frames[f + 5]!]
      const [nx, ny, nz] = [frames[f + 6]!, frames[f + 7]!, frames[f + 8]!]
      const [ux, uy, uz] = [by * nz - bz * ny, bz * nx - bx * nz, bx * ny - by * nx]
      const determinant = tx * ux + ty * uy + tz * uz
      const a = (ux * x + uy * y + uz * z) / determinant
      const b = ((ny * tz - nz * ty) * x + (nz * tx - nx * tz) * y + (nx * ty - ny * tx) * z) / determinant
      const c = ((ty * bz - tz * by) * x + (tz * bx - tx * bz) * y + (tx * by - ty * bx) * z) / determinant
      const length = Math.sqrt(a * a + b * b + c * c)
      const none = Number.isNaN(x) ? NaN : 0
      out[i * 3] = length > 0 ? a / length : none
      out[i * 3 + 1] = length > 0 ? b / length : none
      out[i * 3 + 2] = length > 0 ? c / length : none + 1
    }
    return out
  },
}
export default normal
