import { generateTangents } from 'three/addons/libs/mikktspace.module.js'
import type { Mesh, MeshPart } from './mesh'

/**
 * Tangents of a part's corners for a UV set: x, y, z and the sign of the bitangent, which is sign · cross(normal, tangent).
 * Shape: four numbers a corner, three corners a triangle. V grows downward, as glTF 2.0 has it, and its tangents are those of v upward.
 * Source: M. Mikkelsen, "Simulation of wrinkled surfaces revisited", 2008, by the reference library; glTF 2.0, 3.7.2.1.
 */
export function cornerTangents(
  { positions, normals, triangles }: Mesh,
  { from, count }: MeshPart,
  uvs: Float32Array,
): Float32Array {
  const spread = (values: Float32Array, each: number): Float32Array => {
    const out = new Float32Array(count * 3 * each)
    for (let i = 0; i < count * 3; i++) {
      const vertex = triangles[from * 3 + i]!
      for (let k = 0; k < each; k++) out[i * each + k] = values[vertex * each + k]!
    }
    return out
  }
  const tangents = generateTangents(spread(positions, 3), spread(normals, 3), spread(uvs, 2)) as Float32Array
  // The library takes v as growing upward: with v downward its sign is the other one.
  for (let i = 3; i < tangents.length; i += 4) tangents[i] = -tangents[i]!
  return tangents
}
