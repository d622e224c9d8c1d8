import type { Mesh, MeshPart } from './mesh'

/** The vertices that a part's triangles use, in the order in which they are first used, and its triangles by their numbers among them. */
export function partVertices(
  { positions, triangles }: Pick<Mesh, 'positions' | 'triangles'>,
  { from, count }: MeshPart,
): { vertices: Uint32Array<ArrayBuffer>; triangles: Uint32Array<ArrayBuffer> } {
  const numbers = new Int32Array(positions.length / 3).fill(-1)
  const vertices = new Uint32Array(numbers.length)
  let used = 0
  const own = new Uint32Array(count * 3)
  for (let i = 0; i < count * 3; i++) {
    const vertex = triangles[from * 3 + i]!
    if (numbers[vertex]! < 0) {
      numbers[vertex] = used
      vertices[used++] = vertex
    }
    own[i] = numbers[vertex]!
  }
  return { vertices: vertices.slice(0, used), triangles: own }
}

/** u, v of each corner of a part's triangles, six numbers a triangle. */
export function cornersOf(
  { triangles }: Pick<Mesh, 'triangles'>,
  { from, count }: MeshPart,
  uvs: Float32Array,
): Float64Array {
  const corners = new Float64Array(count * 6)
  for (let i = 0; i < count * 3; i++) {
    const vertex = triangles[from * 3 + i]!
    corners[i * 2] = uvs[vertex * 2]!
    corners[i * 2 + 1] = uvs[vertex * 2 + 1]!
  }
  return corners
}
