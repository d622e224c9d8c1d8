import { closestHits } from '../../kernels/ray-tree'
import { hash32, hashInto, unitFloat } from '../../random'
import type { Baker } from '../baker'
import { normalAt } from '../surface'

/** Steps up the surface within the length. */
const STEPS = 24
/** A surface that faces up so much holds water; less than this of "up" lies in one that is level. */
const LEVEL = 0.7

/**
 * Each sample is followed up the surface: a step along it, then back onto it. It ends where something stands out over it, where the
 * surface becomes level (water stands there and runs over the edge), or where it is gone (the rim of a hollow). What is nearer to that
 * end has more.
 */
const leaks: Baker = {
  name: 'leaks',
  title: 'Leaks',
  help: 'Runs of water below ledges, level places and the rims of hollows: 1 where they begin, falling to 0 at their length, which differs from place to place.',
  type: 'grey',
  order: 10,
  reads: 'model',
  uses: ['bias', 'leakLength', 'leakVariation'],
  empty: [0],
  bake: ({ places, scene, options: { bias, leakLength, leakVariation }, check }) => {
    const count = places.length / 6
    /** First how far it is up to where the run begins, 0 where it is nowhere. */
    const out = new Float32Array(count)
    const step = leakLength / STEPS
    /** Place and normal of those that still climb, and whose they are. */
    const at = places.slice()
    let climbing = new Int32Array(count)
    for (let i = 0; i < count; i++) climbing[i] = i
    const up = new Float32Array(3)
    for (let s = 1; s <= STEPS && climbing.length > 0; s++) {
      check()
      const along = new Float32Array(climbing.length * 7)
      const back = new Float32Array(climbing.length * 7)
      climbing.forEach((i, c) => {
        uphill(at, i * 6 + 3, up)
        for (let k = 0; k < 3; k++) {
          const [p, n] = [at[i * 6 + k]!, at[i * 6 + 3 + k]!]
          along[c * 7 + k] = p + n * bias
          along[c * 7 + 3 + k] = up[k]!
          back[c * 7 + k] = p + up[k]! * step + n * step
          back[c * 7 + 3 + k] = -n
        }
        along[c * 7 + 6] = step
        back[c * 7 + 6] = step * 2
      })
      const above = closestHits(scene.tree, along)
      const below = closestHits(scene.tree, back)
      const next: number[] = []
      climbing.forEach((i, c) => {
        const ahead = above.distances[c]!
        // Level already where it began: water stands here and does not run.
        if (s === 1 && at[i * 6 + 4]! > LEVEL) return
        if (ahead >= 0) {
          normalAt(scene.mesh, above.triangles[c]!, above.weights[c * 2]!, above.weights[c * 2 + 1]!, up, 0)
          if (up[1]! < LEVEL) return void (out[i] = (s - 1) * step + ahead)
        }
        const t = below.distances[c]!
        if (t < 0) return void (out[i] = (s - 0.5) * step)
        normalAt(scene.mesh, below.triangles[c]!, below.weights[c * 2]!, below.weights[c * 2 + 1]!, at, i * 6 + 3)
        for (let k = 0; k < 3; k++) at[i * 6 + k] = back[c * 7 + k]! + back[c * 7 + 3 + k]! * t
        if (at[i * 6 + 4]! > LEVEL) return void (out[i] = s * step)
        next.push(i)
      })
      climbing = Int32Array.from(next)
    }
    for (let i = 0; i < count; i++) {
      const climbed = out[i]!
      const length = leakLength * (1 - leakVariation * streak(places, i * 6, step * 2))
      out[i] = climbed > 0 && climbed < length ? 1 - climbed / length : 0
    }
    return out
  },
}
export default leaks

/** The way up along a surface, of length 1; straight up where it is level. */
function uphill(normals: Float32Array, at: number, out: Float32Array): void {
  const [x, y, z] = [normals[at]!, normals[at + 1]!, normals[at + 2]!]
  const length = Math.sqrt(Math.max(0, 1 - y * y))
  out[0] = length > 1e-3 ? (-x * y) / length : 0
  out[1] = length > 1e-3 ? (1 - y * y) / length : 1
  out[2] = length > 1e-3 ? (-z * y) / length : 0
}

/** A number of 0–1 that differs sideways and not downward, in cells of `size` metres, smoothly. */
function streak(places: Float32Array, at: number, size: number): number {
  const [u, w] = [places[at]! / size, places[at + 2]! / size]
  const [i, j] = [Math.floor(u), Math.floor(w)]
  const smooth = (t: number): number => t * t * (3 - 2 * t)
  const [s, t] = [smooth(u - i), smooth(w - j)]
  const value = (a: number, b: number): number => unitFloat(hashInto(hash32(a), b))
  const near = value(i, j) + (value(i + 1, j) - value(i, j)) * s
  const far = value(i, j + 1) + (value(i + 1, j + 1) - value(i, j + 1)) * s
  return near + (far - near) * t
}
