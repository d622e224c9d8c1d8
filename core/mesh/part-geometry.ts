import type { Mesh, MeshPart } from './mesh'
import { partVertices } from './part-vertices'
import { cornerTangents } from './tangents'

/** The vertices of a part, each once for every tangent that it has, and its triangles among them, in the mesh's order. */
export interface DressedVertices {
  /** Numbers of vertices of the mesh. */
  readonly vertices: Uint32Array
  /** Four a vertex: direction, and the sign of the bitangent; null where the part has no such UV set. */
  readonly tangents: Float32Array | null
  readonly triangles: Uint32Array<ArrayBuffer>
}

/** Splits the vertices of a part where their tangents differ, so that a renderer has the frames that normals were baked in. */
export function dressedVertices(mesh: Mesh, part: MeshPart, uvSet: number): DressedVertices {
  if (uvSet >= part.uvSets) return { ...partVertices(mesh, part), tangents: null }
  const corners = cornerTangents(mesh, part, mesh.uvSets[uvSet]!)
  const words = new Uint32Array(corners.buffer, corners.byteOffset, corners.length)
  const count = part.count * 3
  const vertices = new Uint32Array(count)
  const tangents = new Uint32Array(count * 4)
  const triangles = new Uint32Array(count)
  // By a hash of vertex and tangent: the last that was made of those, and of each the one before.
  const bits = Math.max(4, Math.ceil(Math.log2(count)))
  const last = new Int32Array(2 ** bits).fill(-1)
  const before = new Int32Array(count)
  let made = 0
  for (let i = 0; i < count; i++) {
    const vertex = mesh.triangles[part.from * 3 + i]!
    let hash = vertex
    for (let k = 0; k < 4; k++) hash = Math.imul(hash ^ words[i * 4 + k]! ^ (hash >>> 15), 0x9e3779b1)
    hash >>>= 32 - bits
    let at = last[hash]!
    while (at >= 0 && !(vertices[at] === vertex && isSame(tangents, at * 4, words, i * 4))) at = before[at]!
    if (at < 0) {
      at = made++
      before[at] = last[hash]!
      last[hash] = at
      vertices[at] = vertex
      for (let k = 0; k < 4; k++) tangents[at * 4 + k] = words[i * 4 + k]!
    }
    triangles[i] = at
  }
  return {
    vertices: vertices.slice(0, made),
    tangents: new Float32Array(tangents.slice(0, made * 4).buffer),
    triangles,
  }
}

const isSame = (a: Uint32Array, i: number, b: Uint32Array, j: number): boolean =>
  a[i] === b[j] && a[i + 1] === b[j + 1] && a[i + 2] === b[j + 2] && a[i + 3] === b[j + 3]
