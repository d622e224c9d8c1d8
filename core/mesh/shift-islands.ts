import { layoutOf } from './layout'
import type { Mesh, MeshPart } from './mesh'

/**
 * Moves islands that lie over others by whole tiles to the right, each of a heap to another tile, so that the first of each heap is baked and the others repeat what it
 * received: materials that tile are the same there. Vertices that a moved island shares are split; triangles stay in order.
 * The mesh itself where nothing lies over anything. Throws mesh-invalid where a part lacks the set.
 */
export function shiftOverlapping(mesh: Mesh, parts: readonly MeshPart[], uvSet: number): Mesh {
  /** Tiles to the right that each triangle moves; those that stay are not in it. */
  const tiles = new Map<number, number>()
  for (const part of mesh.parts) {
    if (!parts.includes(part)) continue
    const { islands, overlaps } = layoutOf(mesh, part, uvSet)
    const levels = levelsOf(islands.of, islands.count, overlaps.pairs)
    islands.of.forEach((island, t) => levels[island]! > 0 && tiles.set(part.from + t, levels[island]!))
  }
  if (tiles.size === 0) return mesh
  const corners = mesh.triangles.slice()
  const stays = new Uint8Array(mesh.positions.length / 3)
  corners.forEach((vertex, i) => {
    if (!tiles.has(Math.floor(i / 3))) stays[vertex] = 1
  })
  // A vertex that something else uses too is made twice.
  const sources: number[] = []
  const twins = new Map<string, number>()
  const shifted = new Map<number, number>()
  for (const [t, by] of tiles)
    for (let i = t * 3; i < t * 3 + 3; i++) {
      const vertex = corners[i]!
      if (!stays[vertex] && (shifted.get(vertex) ?? by) === by) {
        shifted.set(vertex, by)
        continue
      }
      const key = `${vertex} ${by}`
      let twin = twins.get(key)
      if (twin === undefined) {
        twin = stays.length + sources.length
        sources.push(vertex)
        twins.set(key, twin)
        shifted.set(twin, by)
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
  for (const [vertex, by] of shifted) uvSets[uvSet]![vertex * 2]! += by
  return {
    ...mesh,
    positions: longer(mesh.positions, 3),
    normals: longer(mesh.normals, 3),
    colours: mesh.colours && longer(mesh.colours, 4),
    uvSets,
    triangles: corners,
  }
}

/** Tiles that each island moves: the fewest at which it lies over none of those before it in the file. */
function levelsOf(of: Uint32Array, count: number, pairs: Uint32Array): Uint32Array {
  const over = Array.from({ length: count }, () => new Set<number>())
  for (let i = 0; i < pairs.length; i += 2) {
    const [a, b] = [of[pairs[i]!]!, of[pairs[i + 1]!]!]
    if (a !== b) over[Math.max(a, b)]!.add(Math.min(a, b))
  }
  const levels = new Uint32Array(count)
  over.forEach((before, island) => {
    const taken = new Set([...before].map((other) => levels[other]))
    while (taken.has(levels[island])) levels[island]!++
  })
  return levels
}
