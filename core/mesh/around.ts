import { cosTurns, sinTurns } from '../elementary'
import { aroundOf } from '../kernels/ray-tree'
import type { BakeContext } from './baker'
import { seenSamples } from './high'

/**
 * Rays around a sample for a radius of 1, in its frame (tangent, bitangent, normal): where each begins, where it goes, how far. Eight
 * come down onto a disc about it. For each of the four ways along the surface two come back from below it, which meet what falls away
 * beyond an edge, and two go out above it, which meet what rises.
 * Source: rays along all three axes of the frame: A. King, C. Kulla, A. Conty, M. Fajardo, "BSSRDF importance sampling", 2013.
 */
const RAYS: readonly (readonly number[])[] = [
  ...Array.from({ length: 8 }, (_, k) => {
    const r = k % 2 ? 0.9 : 0.5
    return [r * cosTurns(k / 8), r * sinTurns(k / 8), 1, 0, 0, -1, 2]
  }),
  ...[0, 1, 2, 3].flatMap((side) => {
    const along = [cosTurns(side / 4), sinTurns(side / 4)] as const
    const at = (ahead: number, aside: number, up: number): number[] => [
      along[0] * ahead - along[1] * aside,
      along[1] * ahead + along[0] * aside,
      up,
    ]
    return [
      [...at(1, -0.35, -0.2), -along[0], -along[1], 0, 1],
      [...at(1, 0.35, -0.55), -along[0], -along[1], 0, 1],
      [...at(0, 0.35, 0.2), along[0], along[1], 0, 1],
      [...at(0, -0.35, 0.55), along[0], along[1], 0, 1],
    ]
  }),
]

/** Eight come down; along each way across two come back from below and two, of the other side, go out above. */
const AROUND = { table: Float32Array.from(RAYS.flat()), down: 8, side: 4 }

/**
 * Looks around each sample within `radius`: the mean normal curvature over the directions, in 1/m and positive where the surface bulges,
 * and the mean normal, not of length 1; four numbers each, made once for those who want them. Places of the surface count that face the
 * ray which finds them: with n the normal here, n′ that at a place p′ and d = p′ − p, the curvature towards it is (n′ − n)·d / d². On a
 * sphere of radius R that is 1/R for every place. Own derivation. Each place counts by how much of the surface it stands for: a face that
 * falls away at a right angle counts as much as the one it falls from. Samples of a texel have their rays turned by steps, so that the
 * few rays of one leave no pattern.
 */
export function lookAround(context: BakeContext): Float32Array {
  const { scene, options, shared, perTexel } = context
  const known = shared.get('around') as Float32Array | undefined
  if (known) return known
  const rays = { ...AROUND, groups: perTexel, radius: options.radius }
  const made = aroundOf(scene.tree, scene.mesh, seenSamples(context), rays)
  shared.set('around', made)
  return made
}
