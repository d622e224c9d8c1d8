import { cosTurns, sinTurns } from '../elementary'
import { closestHits } from '../kernels/ray-tree'
import type { BakeContext } from './baker'
import { normalAt } from './surface'

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

/** What the surface is around samples, within a radius. */
export interface Around {
  /** Mean normal curvature over the directions, in 1/m; positive where the surface bulges. */
  readonly curvature: Float32Array
  /** Mean normals, three numbers each, not of length 1. */
  readonly normals: Float32Array
}

/**
 * Looks around each sample within `radius` for places of the surface that face the ray which finds them. With n the normal here, n′
 * that at a place p′ and d = p′ − p, the curvature towards it is (n′ − n)·d / d². On a sphere of radius R that is 1/R for every place.
 * Own derivation.
 */
export function lookAround({ shared, ...context }: BakeContext): Around {
  const known = shared.get('around') as Around | undefined
  if (known) return known
  const made = around(context)
  shared.set('around', made)
  return made
}

function around({ scene, places, options: { radius }, check }: Omit<BakeContext, 'shared'>): Around {
  const count = places.length / 6
  const each = RAYS.length
  const rays = new Float32Array(each * 7)
  const curvature = new Float32Array(count)
  const normals = new Float32Array(count * 3)
  const found = new Float32Array(3)
  // Rays of many samples go together.
  const BATCH = 256
  const batch = new Float32Array(BATCH * each * 7)
  for (let first = 0; first < count; first += BATCH) {
    check()
    const some = Math.min(BATCH, count - first)
    for (let i = 0; i < some; i++) {
      raysAround(places, (first + i) * 6, radius, rays)
      batch.set(rays, i * each * 7)
    }
    const hits = closestHits(scene.tree, batch.subarray(0, some * each * 7))
    for (let i = 0; i < some; i++) {
      const at = (first + i) * 6
      const n = places.subarray(at + 3, at + 6)
      const mean = [n[0]!, n[1]!, n[2]!]
      let [sum, met] = [0, 0]
      for (let k = 0; k < each; k++) {
        const ray = (i * each + k) * 7
        const t = hits.distances[i * each + k]!
        if (t < 0) continue
        const hit = i * each + k
        normalAt(scene.mesh, hits.triangles[hit]!, hits.weights[hit * 2]!, hits.weights[hit * 2 + 1]!, found, 0)
        const facing = found[0]! * batch[ray + 3]! + found[1]! * batch[ray + 4]! + found[2]! * batch[ray + 5]!
        if (facing >= 0) continue
        let [turn, square] = [0, 0]
        for (let axis = 0; axis < 3; axis++) {
          const d = batch[ray + axis]! + batch[ray + 3 + axis]! * t - places[at + axis]!
          turn += (found[axis]! - n[axis]!) * d
          square += d * d
          mean[axis] = mean[axis]! + found[axis]!
        }
        if (square > 0) sum += turn / square
        met++
      }
      curvature[first + i] = met > 0 ? sum / met : 0
      for (let axis = 0; axis < 3; axis++) normals[(first + i) * 3 + axis] = mean[axis]! / (met + 1)
    }
  }
  return { curvature, normals }
}

/** Writes the rays around a sample. */
function raysAround(places: Float32Array, at: number, radius: number, rays: Float32Array): void {
  const [nx, ny, nz] = [places[at + 3]!, places[at + 4]!, places[at + 5]!]
  // T. Duff and others, "Building an orthonormal basis, revisited", 2017.
  const sign = nz >= 0 ? 1 : -1
  const a = -1 / (sign + nz)
  const b = nx * ny * a
  const tangent = [1 + sign * nx * nx * a, sign * b, -sign * nx]
  const bitangent = [b, sign + ny * ny * a, -ny]
  const normal = [nx, ny, nz]
  for (let k = 0; k < RAYS.length; k++) {
    const own = RAYS[k]!
    const ray = k * 7
    for (let axis = 0; axis < 3; axis++) {
      const [t, u, n] = [tangent[axis]!, bitangent[axis]!, normal[axis]!]
      rays[ray + axis] = places[at + axis]! + radius * (own[0]! * t + own[1]! * u + own[2]! * n)
      rays[ray + 3 + axis] = own[3]! * t + own[4]! * u + own[5]! * n
    }
    rays[ray + 6] = own[6]! * radius
  }
}
