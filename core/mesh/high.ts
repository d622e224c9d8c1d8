import { closestHits } from '../kernels/ray-tree'
import type { BakeContext, Traced } from './baker'
import { normalAt } from './surface'

/** What the high twin is under samples. */
export interface HighHits {
  /** How far out of the low surface it lies, in metres, negative inward; NaN where it was not met. */
  readonly heights: Float32Array
  readonly triangles: Uint32Array
  /** Weights of the second and third corner, two a sample. */
  readonly weights: Float32Array
}

/**
 * Looks for the high twin along normals: from `front` outside of the surface to `back` inside. What lies nearest to the outside end
 * counts, so that what stands in front hides what lies behind it.
 */
export function highHits({ places, samples, options: { front, back } }: BakeContext, { tree }: Traced): HighHits {
  const count = samples.texels.length
  const rays = new Float32Array(count * 7)
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < 3; k++) {
      const normal = places[i * 6 + 3 + k]!
      rays[i * 7 + k] = places[i * 6 + k]! + normal * front
      rays[i * 7 + 3 + k] = -normal
    }
    rays[i * 7 + 6] = front + back
  }
  const { distances, triangles, weights } = closestHits(tree, rays)
  return { heights: distances.map((t) => (t < 0 ? NaN : front - t)), triangles, weights }
}

/** Normals of the high twin under samples, three numbers each, of length 1; NaN where it was not met. */
export function highNormals(context: BakeContext, high: Traced): Float32Array {
  const { heights, triangles, weights } = highHits(context, high)
  const out = new Float32Array(heights.length * 3)
  for (let i = 0; i < heights.length; i++)
    if (Number.isNaN(heights[i]!)) out.fill(NaN, i * 3, i * 3 + 3)
    else normalAt(high.mesh, triangles[i]!, weights[i * 2]!, weights[i * 2 + 1]!, out, i * 3)
  return out
}
