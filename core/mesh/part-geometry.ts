import type { Mesh, MeshPart } from './mesh'
import { partVertices } from './part-vertices'
import { cornerTangents } from './tangents'

/** The vertices of a part, each once for every tangent that it has, and its triangles among them, in the mesh's order. */
export interface DressedVertices {
  /** Numbers of vertices of the mesh. */
  readonly vertices: Uint32Array
  /** Four a vertex: direction, and the sign of the bitangent; null where the part has no such UV set. */
  readonly tangents: Float32Array | null
  readonly triangles: Uint32Array
}

/** Splits the vertices of a part where their tangents differ, so that a renderer has the frames that normals were baked in. */
export function dressedVertices(mesh: Mesh, part: MeshPart, uvSet: number): DressedVertices {
  if (uvSet >= part.uvSets) return { ...partVertices(mesh, part), tangents: null }
  const corners = cornerTangents(mesh, part, mesh.uvSets[uvSet]!)
  const known = new Map<string, number>()
  const [vertices, tangents]: [number[], number[]] = [[], []]
  const triangles = new Uint32Array(part.count * 3)
  for (let i = 0; i < part.count * 3; i++) {
    const vertex = mesh.triangles[part.from * 3 + i]!
    const t = corners.subarray(i * 4, i * 4 + 4)
    const key = `${vertex} ${t[0]} ${t[1]} ${t[2]} ${t[3]}`
    let at = known.get(key)
    if (at === undefined) {
      at = vertices.length
      known.set(key, at)
      vertices.push(vertex)
      tangents.push(t[0]!, t[1]!, t[2]!, t[3]!)
    }
    triangles[i] = at
  }
  return { vertices: Uint32Array.from(vertices), tangents: Float32Array.from(tangents), triangles }
}

/** Some numbers a vertex, for these vertices. */
export function gathered(vertices: Uint32Array, values: Float32Array, each: number): Float32Array {
  const out = new Float32Array(vertices.length * each)
  vertices.forEach((vertex, i) => out.set(values.subarray(vertex * each, vertex * each + each), i * each))
  return out
}
