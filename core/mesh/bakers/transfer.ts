import { GristError } from '../../errors'
import type { Baker, Texture } from '../baker'
import { nearestPlaces } from '../../kernels/ray-tree'
import { highHits } from '../high'

const transfer: Baker = {
  name: 'transfer',
  title: 'Transfer',
  help: 'The colours of an image that lies on the high twin, found by rays or at the nearest place, or in another UV set of the model itself, in linear light.',
  type: 'vector',
  order: 12,
  reads: 'model',
  uses: ['front', 'back', 'transferFrom', 'transferBy', 'transferSet'],
  needsTexture: true,
  empty: [0, 0, 0],
  bake: (context) => {
    const { surface, samples, high, options } = context
    const texture = context.texture!
    const fromHigh = options.transferFrom === 1 && high !== null
    const { mesh, part } = fromHigh ? { mesh: high.mesh, part: null } : surface
    const uvs = mesh.uvSets[options.transferSet]
    const count = samples.texels.length
    const out = new Float32Array(count * 3)
    if (!uvs)
      throw new GristError(
        'mesh-invalid',
        `${fromHigh ? 'The high twin' : 'The model'} has no UV set ${options.transferSet + 1} for the image to lie in.`,
      )
    const hits = !fromHigh
      ? null
      : options.transferBy === 1
        ? nearestPlaces(high.tree, context, Math.max(options.front, options.back))
        : highHits(context, high)
    const { triangles, weights } = hits ?? samples
    for (let i = 0; i < count; i++) {
      if (hits && Number.isNaN(hits.heights[i]!)) {
        out.fill(NaN, i * 3, i * 3 + 3)
        continue
      }
      const [b, c] = [weights[i * 2]!, weights[i * 2 + 1]!]
      const at = (triangles[i]! + (part?.from ?? 0)) * 3
      const [p, q, r] = [0, 1, 2].map((k) => mesh.triangles[at + k]! * 2) as [number, number, number]
      const place = (k: number): number => uvs[p + k]! * (1 - b - c) + uvs[q + k]! * b + uvs[r + k]! * c
      readTexture(texture, place(0), place(1), out, i * 3)
    }
    return out
  },
}
export default transfer

/** Between texels, repeating. */
function readTexture({ width, height, values }: Texture, u: number, v: number, out: Float32Array, to: number): void {
  const [x, y] = [u * width - 0.5, v * height - 0.5]
  const [i, j] = [Math.floor(x), Math.floor(y)]
  const [s, t] = [x - i, y - j]
  const at = (a: number, b: number): number =>
    ((((b % height) + height) % height) * width + (((a % width) + width) % width)) * 3
  const corners = [at(i, j), at(i + 1, j), at(i, j + 1), at(i + 1, j + 1)] as const
  for (let k = 0; k < 3; k++) {
    const [a, b, c, d] = corners.map((corner) => values[corner + k]!) as [number, number, number, number]
    const [top, low] = [a + (b - a) * s, c + (d - c) * s]
    out[to + k] = top + (low - top) * t
  }
}
