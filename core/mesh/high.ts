import type { RaySamples } from '../kernels/ray-tree'
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
 * Looks for the high twin along normals: from `front` outside of the surface to `back` inside; with a cage from there towards the
 * surface, and as far again beyond it. What lies nearest to the outside end counts, so that what stands in front hides what lies behind.
 * Made once for those who want it.
 */
export function highHits(context: BakeContext, { tree }: Traced): HighHits {
  const known = context.shared.get('high') as HighHits | undefined
  if (known) return known
  const { places, samples, options, cage } = context
  const count = samples.texels.length
  const rays = new Float32Array(count * 7)
  /** How far outside of the surface each ray begins. */
  const fronts = new Float32Array(count).fill(options.front)
  const ends = cage ? context.surface.cageOf(samples, cage) : null
  for (let i = 0; i < count; i++) {
    const at = i * 6
    const out = ends ? ends.subarray(i * 3, i * 3 + 3).map((v, k) => v - places[at + k]!) : null
    const length = out ? Math.sqrt(out[0]! ** 2 + out[1]! ** 2 + out[2]! ** 2) : 0
    // Where the cage lies on the surface, the normal and the distances serve.
    const free = length > 0
    const front = free ? length : options.front
    for (let k = 0; k < 3; k++) {
      const way = free ? out![k]! / length : places[at + 3 + k]!
      rays[i * 7 + k] = places[at + k]! + way * front
      rays[i * 7 + 3 + k] = -way
    }
    fronts[i] = front
    rays[i * 7 + 6] = free ? front * 2 : front + options.back
  }
  const { distances, triangles, weights } = closestHits(tree, rays)
  const made = { heights: distances.map((t, i) => (t < 0 ? NaN : fronts[i]! - t)), triangles, weights }
  context.shared.set('high', made)
  return made
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

/**
 * The samples as rays about them begin: on the high twin where there is one and it was met, as what it hides and how it bends is what is
 * baked; else on the surface itself.
 */
export function seenSamples(context: BakeContext): RaySamples {
  const { places, high, shared, firstNumber, check } = context
  if (!high) return { places, firstNumber, check }
  const known = shared.get('seen') as Float32Array | undefined
  const seen = known ?? placesOnHigh(context, high)
  shared.set('seen', seen)
  return { places: seen, firstNumber, check }
}

function placesOnHigh(context: BakeContext, high: Traced): Float32Array {
  const { heights, triangles, weights } = highHits(context, high)
  const { positions, triangles: faces } = high.mesh
  const out = context.places.slice()
  for (let i = 0; i < heights.length; i++) {
    if (Number.isNaN(heights[i]!)) continue
    const [b, c] = [weights[i * 2]!, weights[i * 2 + 1]!]
    const at = triangles[i]! * 3
    const [p, q, r] = [faces[at]! * 3, faces[at + 1]! * 3, faces[at + 2]! * 3]
    for (let k = 0; k < 3; k++)
      out[i * 6 + k] = positions[p + k]! * (1 - b - c) + positions[q + k]! * b + positions[r + k]! * c
    normalAt(high.mesh, triangles[i]!, b, c, out, i * 6 + 3)
  }
  return out
}
