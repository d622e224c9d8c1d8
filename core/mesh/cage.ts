import { GristError } from '../errors'
import type { Mesh } from './mesh'

/**
 * Places of a cage by the vertices of a mesh: a cage is the mesh itself, grown, with the same triangles in the same order; the vertices
 * may be numbered another way, as they are where UVs were laid out anew. Throws mesh-invalid where it has other triangles.
 */
export function cageFor(mesh: Mesh, cage: Mesh): Float32Array {
  if (cage.triangles.length !== mesh.triangles.length)
    throw new GristError(
      'mesh-invalid',
      `A cage has the triangles of its model: expected ${mesh.triangles.length / 3} but it has ${cage.triangles.length / 3}.`,
    )
  const places = mesh.positions.slice()
  mesh.triangles.forEach((vertex, i) => {
    const at = cage.triangles[i]! * 3
    places.set(cage.positions.subarray(at, at + 3), vertex * 3)
  })
  return places
}
