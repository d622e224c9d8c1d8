import type { HitsAlong, RaySamples, RayTree } from '../kernels/ray-tree'
import { closestHits, hitsAlong, placesOnHits } from '../kernels/ray-tree'
import { normalsWhereMet } from '../kernels/tangent-frames'
import type { BakeContext, Traced } from './baker'

/**
 * Looks for the high twin along normals: from `front` outside of the surface to `back` inside; with a cage from there towards the
 * surface, and as far again beyond it. What lies nearest to the outside end counts, so that what stands in front hides what lies behind.
 * Made once for those who want it.
 */
export function highHits(context: BakeContext, { tree }: Traced): HitsAlong {
  const known = context.shared.get('high') as HitsAlong | undefined
  if (known) return known
  const { cage, options } = context
  const made = cage ? hitsFromCage(context, tree, cage) : hitsAlong(tree, context, options)
  context.shared.set('high', made)
  return made
}

function hitsFromCage(context: BakeContext, tree: RayTree, cage: Float32Array): HitsAlong {
  const { places, samples, options } = context
  const count = samples.texels.length
  const rays = new Float32Array(count * 7)
  /** How far outside of the surface each ray begins. */
  const fronts = new Float32Array(count)
  const ends = context.surface.cageOf(samples, cage)
  for (let i = 0; i < count; i++) {
    const at = i * 6
    const out = [0, 1, 2].map((k) => ends[i * 3 + k]! - places[at + k]!)
    const length = Math.sqrt(out[0]! ** 2 + out[1]! ** 2 + out[2]! ** 2)
    // Where the cage lies on the surface, the normal and the distances serve.
    const free = length > 0
    const front = free ? length : options.front
    for (let k = 0; k < 3; k++) {
      const way = free ? out[k]! / length : places[at + 3 + k]!
      rays[i * 7 + k] = places[at + k]! + way * front
      rays[i * 7 + 3 + k] = -way
    }
    fronts[i] = front
    rays[i * 7 + 6] = free ? front * 2 : front + options.back
  }
  const { distances, triangles, weights } = closestHits(tree, rays)
  return { heights: distances.map((t, i) => (t < 0 ? NaN : fronts[i]! - t)), triangles, weights }
}

/** Normals of the high twin under samples, three numbers each, of length 1; NaN where it was not met. Made once for those who want them. */
export function highNormals(context: BakeContext, high: Traced): Float32Array {
  const known = context.shared.get('high normals') as Float32Array | undefined
  if (known) return known
  const { heights } = highHits(context, high)
  const made = normalsWhereMet(seenSamples(context).places, heights, context.room)
  context.shared.set('high normals', made)
  return made
}

/**
 * The samples as rays about them begin: on the high twin where there is one and it was met, as what it hides and how it bends is what is
 * baked; else on the surface itself.
 */
export function seenSamples(context: BakeContext): RaySamples {
  const { places, high, shared, room, firstNumber, check } = context
  if (!high) return { places, room, firstNumber, check }
  const known = shared.get('seen') as Float32Array | undefined
  const seen = known ?? placesOnHits(high.mesh, highHits(context, high), places, room)
  shared.set('seen', seen)
  return { places: seen, room, firstNumber, check }
}
