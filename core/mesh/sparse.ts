import { chooseSparse, spreadSparse } from '../kernels/sparse'
import type { BakeContext } from './baker'
import { seenSamples } from './high'

/** Samples that rays are sent from in place of all, and how their values make those of the others. */
export interface SparseSamples {
  /** What is made of it is made for the chosen samples alone. */
  readonly context: BakeContext
  /** Values of all samples from those of the chosen, `each` numbers a sample; NaN where none stands for it. */
  spread(values: Float32Array, each: number): Float32Array
}

/**
 * Chooses samples for a draft: one in each square of `step` texels, and one more for each island and each way the surface faces in it.
 * The others take the mean of the chosen ones around them that are alike: of their island, facing within 18°, the nearer the more.
 */
export function sparseSamples(context: BakeContext, width: number, step: number): SparseSamples {
  const { samples, surface, room } = context
  const { texels, triangles, weights } = samples
  const { places } = seenSamples(context)
  const islandOf = surface.islands.of
  const found = chooseSparse({ texels, triangles, places, islandOf, width, step }, room)
  const { chosen } = found
  const own = room(chosen.length * 6)
  const sub = {
    texels: new Uint32Array(chosen.length),
    triangles: new Uint32Array(chosen.length),
    weights: new Float32Array(chosen.length * 2),
  }
  for (let i = 0; i < chosen.length; i++) {
    const s = chosen[i]!
    for (let k = 0; k < 6; k++) own[i * 6 + k] = places[s * 6 + k]!
    sub.texels[i] = texels[s]!
    sub.triangles[i] = triangles[s]!
    sub.weights[i * 2] = weights[s * 2]!
    sub.weights[i * 2 + 1] = weights[s * 2 + 1]!
  }
  return {
    context: {
      ...context,
      samples: sub,
      places: own,
      // They lie on the high twin already.
      high: null,
      cage: null,
      shared: new Map(),
    },
    spread: (values, each) => spreadSparse(found, values, each, room),
  }
}
