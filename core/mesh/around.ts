import { cosTurns, sinTurns } from '../elementary'
import { closestHits } from '../kernels/ray-tree'
import type { BakeContext } from './baker'
import { normalAt } from './surface'

/** Points around each sample: so many rings, and so many points a ring; rings have equal areas. */
const RINGS = 2
const POINTS = 8

/** Points of the disc of radius 1, two numbers each. */
const DISC = Float64Array.from({ length: RINGS * POINTS * 2 }, (_, i) => {
  const [ring, k] = [Math.floor(i / 2 / POINTS), (i >> 1) % POINTS]
  const turn = (k + ring * 0.5) / POINTS
  return Math.sqrt((ring + 1) / RINGS) * (i % 2 ? sinTurns(turn) : cosTurns(turn))
})

/** What the surface is around samples, within a radius. */
export interface Around {
  /** Mean normal curvature over the directions, in 1/m; positive where the surface bulges. */
  readonly curvature: Float32Array
  /** Mean normals, three numbers each, not of length 1. */
  readonly normals: Float32Array
}

/**
 * Looks around each sample: points of a disc of `radius` in its tangent plane are brought onto the surface along its normal, from no
 * farther than the radius. With n the normal here, n′ that at a point p′ and d = p′ − p, the curvature towards it is (n′ − n)·d / d².
 * On a sphere of radius R that is 1/R for every point. Points that meet nothing are left out. Own derivation.
 */
export function lookAround({ scene, places, options: { radius }, check }: BakeContext): Around {
  const count = places.length / 6
  const around = RINGS * POINTS
  const rays = new Float32Array(around * 7)
  const curvature = new Float32Array(count)
  const normals = new Float32Array(count * 3)
  const found = new Float32Array(3)
  // Rays of many samples go together.
  const BATCH = 256
  const batch = new Float32Array(BATCH * around * 7)
  for (let first = 0; first < count; first += BATCH) {
    check()
    const some = Math.min(BATCH, count - first)
    for (let i = 0; i < some; i++) {
      discRays(places, (first + i) * 6, radius, rays)
      batch.set(rays, i * around * 7)
    }
    const hits = closestHits(scene.tree, batch.subarray(0, some * around * 7))
    for (let i = 0; i < some; i++) {
      const at = (first + i) * 6
      const n = places.subarray(at + 3, at + 6)
      const mean = [n[0]!, n[1]!, n[2]!]
      let [sum, met] = [0, 0]
      for (let k = 0; k < around; k++) {
        const ray = (i * around + k) * 7
        const t = hits.distances[i * around + k]!
        if (t < 0) continue
        const hit = i * around + k
        normalAt(scene.mesh, hits.triangles[hit]!, hits.weights[hit * 2]!, hits.weights[hit * 2 + 1]!, found, 0)
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

/** Rays from above the points of a disc about a sample, along its normal inward. */
function discRays(places: Float32Array, at: number, radius: number, rays: Float32Array): void {
  const [nx, ny, nz] = [places[at + 3]!, places[at + 4]!, places[at + 5]!]
  // T. Duff and others, "Building an orthonormal basis, revisited", 2017.
  const sign = nz >= 0 ? 1 : -1
  const a = -1 / (sign + nz)
  const b = nx * ny * a
  const tangent = [1 + sign * nx * nx * a, sign * b, -sign * nx]
  const bitangent = [b, sign + ny * ny * a, -ny]
  const normal = [nx, ny, nz]
  for (let k = 0; k < DISC.length / 2; k++) {
    const [x, y] = [DISC[k * 2]! * radius, DISC[k * 2 + 1]! * radius]
    const ray = k * 7
    for (let axis = 0; axis < 3; axis++) {
      const aside = x * tangent[axis]! + y * bitangent[axis]!
      rays[ray + axis] = places[at + axis]! + aside + normal[axis]! * radius
      rays[ray + 3 + axis] = -normal[axis]!
    }
    rays[ray + 6] = radius * 2
  }
}
