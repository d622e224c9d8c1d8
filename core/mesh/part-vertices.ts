import type { Mesh, MeshPart } from './mesh'

/** The vertices that a part's triangles use, in the order in which they are first used, and its triangles by their numbers among them. */
export function partVertices(
  { positions, triangles }: Pick<Mesh, 'positions' | 'triangles'>,
  { from, count }: MeshPart,
): { vertices: Uint32Array<ArrayBuffer>; triangles: Uint32Array<ArrayBuffer> } {
  const numbers = new Int32Array(positions.length / 3).fill(-1)
  const vertices: number[] = []
  const own = new Uint32Array(count * 3)
  for (let i = 0; i < count * 3; i++) {
    const vertex = triangles[from * 3 + i]!
    if (numbers[vertex]! < 0) {
      numbers[vertex] = vertices.length
      vertices.push(vertex)
    }
    own[i] = numbers[vertex]!
  }
  return { vertices: Uint32Array.from(vertices), triangles: own }
}
