import type { Mesh, MeshPart } from './mesh'
import { weldedVertices } from './welded'

/** The connected piece of each triangle of a part, numbered from 0 in the order of the file. */
export function findPieces(mesh: Mesh, part: MeshPart): Uint32Array {
  const places = weldedVertices(mesh.positions)
  const parents = Uint32Array.from({ length: places.length }, (_, i) => i)
  const root = (v: number): number => {
    while (parents[v] !== v) v = parents[v] = parents[parents[v]!]!
    return v
  }
  const corner = (i: number): number => places[mesh.triangles[i]!]!
  const [from, end] = [part.from * 3, (part.from + part.count) * 3]
  for (let i = from; i < end; i += 3) {
    const first = root(corner(i))
    parents[root(corner(i + 1))] = first
    parents[root(corner(i + 2))] = first
  }
  const numbers = new Map<number, number>()
  return Uint32Array.from({ length: part.count }, (_, t) => {
    const at = root(corner(from + t * 3))
    if (!numbers.has(at)) numbers.set(at, numbers.size)
    return numbers.get(at)!
  })
}

/** The number of each colour among those of the mesh, from 1, told apart by 8 bits a channel. Shape: four a vertex, linear. */
export function numbersOfColours(colours: Float32Array): Uint32Array {
  const numbers = new Map<number, number>()
  return Uint32Array.from({ length: colours.length / 4 }, (_, v) => {
    let key = 0
    for (let k = 0; k < 3; k++) key = key * 256 + Math.round(Math.min(1, Math.max(0, colours[v * 4 + k]!)) * 255)
    if (!numbers.has(key)) numbers.set(key, numbers.size + 1)
    return numbers.get(key)!
  })
}
