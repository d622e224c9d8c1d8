import { layoutOf } from './layout'
import type { Mesh, MeshPart } from './mesh'

/**
 * Moves islands that lie over others by one whole tile to the right, so that the first of each heap is baked and the others repeat what it
 * received: materials that tile are the same there. Vertices that a moved island shares are split; triangles stay in order.
 * The mesh itself where nothing lies over anything. Throws mesh-invalid where a part lacks the set.
 */
export function shiftOverlapping(mesh: Mesh, parts: readonly MeshPart[], uvSet: number): Mesh {
  const { overlaps, triangles } = mesh.parts.reduce(
    (found, part) => {
      if (!parts.includes(part)) return found
      const { islands, overlaps } = layoutOf(mesh, part, uvSet)
      const moved = movedIslands(islands.of, islands.count, overlaps.pairs)
      islands.of.forEach((island, t) => moved.has(island) && found.triangles.push(part.from + t))
      return { ...found, overlaps: found.overlaps + moved.size }
    },
    { overlaps: 0, triangles: [] as number[] },
  )
  if (overlaps === 0) return mesh
  const corners = mesh.triangles.slice()
  const isMoved = new Uint8Array(corners.length / 3)
  for (const t of triangles) isMoved[t] = 1
  const stays = new Uint8Array(mesh.positions.length / 3)
  corners.forEach((vertex, i) => {
    if (!isMoved[Math.floor(i / 3)]) stays[vertex] = 1
  })
  // A vertex that something else uses too is made twice.
  const sources: number[] = []
  const twins = new Map<number, number>()
  const shifted = new Set<number>()
  for (const t of triangles)
    for (let i = t * 3; i < t * 3 + 3; i++) {
      const vertex = corners[i]!
      if (!stays[vertex]) {
        shifted.add(vertex)
        continue
      }
      let twin = twins.get(vertex)
      if (twin === undefined) {
        twin = stays.length + sources.length
        sources.push(vertex)
        twins.set(vertex, twin)
        shifted.add(twin)
      }
      corners[i] = twin
    }
  const longer = (values: Float32Array, each: number): Float32Array => {
    const out = new Float32Array(values.length + sources.length * each)
    out.set(values)
    sources.forEach((vertex, i) =>
      out.set(values.subarray(vertex * each, vertex * each + each), values.length + i * each),
    )
    return out
  }
  const uvSets = mesh.uvSets.map((uvs) => longer(uvs, 2))
  for (const vertex of shifted) uvSets[uvSet]![vertex * 2]! += 1
  return {
    ...mesh,
    positions: longer(mesh.positions, 3),
    normals: longer(mesh.normals, 3),
    colours: mesh.colours && longer(mesh.colours, 4),
    uvSets,
    triangles: corners,
  }
}

/** Islands that lie over one which stays; in the order of the file the first of a heap stays. */
function movedIslands(of: Uint32Array, count: number, pairs: Uint32Array): Set<number> {
  const over = Array.from({ length: count }, () => new Set<number>())
  for (let i = 0; i < pairs.length; i += 2) {
    const [a, b] = [of[pairs[i]!]!, of[pairs[i + 1]!]!]
    if (a === b) continue
    over[a]!.add(b)
    over[b]!.add(a)
  }
  const moved = new Set<number>()
  over.forEach((others, island) => {
    if ([...others].some((other) => other < island && !moved.has(other))) moved.add(island)
  })
  return moved
}
