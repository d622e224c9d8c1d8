import type { Mesh, MeshPart } from './mesh'
import { firstEqual, weldedVertices } from './welded'

/** Triangles of a part as UV islands: those that hang together over edges whose ends have equal places and equal UVs. */
export interface Islands {
  readonly count: number
  /** The island of each triangle of the part. */
  readonly of: Uint32Array
  /** Edges with a triangle on one side only, two UV points each (u, v, u, v), and the island of each. */
  readonly borders: { readonly points: Float64Array; readonly island: Uint32Array }
}

/** Finds the islands of a part in a UV set. */
export function findIslands(mesh: Mesh, part: MeshPart, uvs: Float32Array): Islands {
  const ids = weldedCorners(mesh, uvs)
  const { triangles } = mesh
  const parents = new Uint32Array(part.count)
  for (let t = 0; t < part.count; t++) parents[t] = t
  const root = (t: number): number => {
    while (parents[t] !== t) {
      parents[t] = parents[parents[t]!]!
      t = parents[t]!
    }
    return t
  }
  const ends = new Uint32Array(part.count * 3)
  for (let i = 0; i < ends.length; i++) ends[i] = ids[triangles[part.from * 3 + i]!]!
  const { before, single } = meetings(ends, ids.length)
  for (let corner = 0; corner < ends.length; corner++)
    if (before[corner]! >= 0) parents[root(Math.floor(corner / 3))] = root(Math.floor(before[corner]! / 3))
  const numbers = new Int32Array(part.count).fill(-1)
  const of = new Uint32Array(part.count)
  let count = 0
  for (let t = 0; t < part.count; t++) {
    const at = root(t)
    if (numbers[at]! < 0) numbers[at] = count++
    of[t] = numbers[at]!
  }
  return { count, of, borders: bordersOf(single, of, part, triangles, uvs) }
}

/** One number for all vertices at one place with one UV. */
function weldedCorners({ positions }: Mesh, uvs: Float32Array): Uint32Array {
  const places = weldedVertices(positions)
  const keys = new Float32Array(places.length * 3)
  // Numbers of places are exact as float32 bits taken for integers.
  const words = new Uint32Array(keys.buffer)
  for (let v = 0; v < places.length; v++) {
    words[v * 3] = places[v]!
    keys[v * 3 + 1] = uvs[v * 2]! + 0
    keys[v * 3 + 2] = uvs[v * 2 + 1]! + 0
  }
  return firstEqual(words)
}

/**
 * By corner the first corner with the same edge (from it to the next one of its triangle), −1 of the first itself; and, in order, corners
 * whose edges have no second triangle. Shape: `ends` three a triangle, below `count`.
 */
function meetings(ends: Uint32Array, count: number): { before: Int32Array; single: number[] } {
  const edges = ends.length
  const degrees = new Uint32Array(count)
  for (let i = 0; i < edges; i++) degrees[ends[i]!]!++
  /** An edge is kept with that end of it which has fewer triangles: no list is long, whatever meets at one place. */
  const keeper = (a: number, b: number): number => {
    const order = degrees[a]! - degrees[b]!
    return order < 0 || (order === 0 && a < b) ? a : b
  }
  const starts = new Uint32Array(count + 1)
  for (let i = 0; i < edges; i++) starts[keeper(ends[i]!, ends[i % 3 === 2 ? i - 2 : i + 1]!) + 1]!++
  for (let v = 0; v < count; v++) starts[v + 1]! += starts[v]!
  const filled = starts.slice(0, count)
  const others = new Uint32Array(edges)
  const corners = new Uint32Array(edges)
  const uses = new Uint8Array(edges)
  const before = new Int32Array(edges).fill(-1)
  for (let i = 0; i < edges; i++) {
    const a = ends[i]!
    const b = ends[i % 3 === 2 ? i - 2 : i + 1]!
    const own = keeper(a, b)
    const other = own === a ? b : a
    const end = filled[own]!
    let slot = starts[own]!
    while (slot < end && others[slot] !== other) slot++
    if (slot === end) {
      others[slot] = other
      corners[slot] = i
      filled[own] = end + 1
    } else before[i] = corners[slot]!
    if (uses[slot]! < 3) uses[slot]!++
  }
  const single: number[] = []
  for (let slot = 0; slot < edges; slot++) if (uses[slot] === 1) single.push(corners[slot]!)
  return { before, single: single.sort((a, b) => a - b) }
}

function bordersOf(
  corners: readonly number[],
  of: Uint32Array,
  part: MeshPart,
  triangles: Uint32Array,
  uvs: Float32Array,
): Islands['borders'] {
  const points = new Float64Array(corners.length * 4)
  const island = new Uint32Array(corners.length)
  corners.forEach((corner, i) => {
    const t = Math.floor(corner / 3)
    const at = (part.from + t) * 3
    const ends = [triangles[at + (corner % 3)]!, triangles[at + ((corner + 1) % 3)]!]
    ends.forEach((vertex, k) => {
      points[i * 4 + k * 2] = uvs[vertex * 2]!
      points[i * 4 + k * 2 + 1] = uvs[vertex * 2 + 1]!
    })
    island[i] = of[t]!
  })
  return { points, island }
}
