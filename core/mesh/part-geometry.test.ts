import { sphere } from '../testing/solids'
import type { Mesh } from './mesh'
import { finishMesh } from './mesh'
import { dressedVertices } from './part-geometry'
import { gathered } from './gathered'
import { cornerTangents } from './tangents'

/** A ball whose UVs are mirrored on its right half, so that vertices on the border between have two tangents. */
function ball(rings: number, segments: number): Mesh {
  const { positions, triangles } = sphere(1, rings, segments)
  const uvs = Float32Array.from({ length: (positions.length / 3) * 2 }, (_, i) => {
    const vertex = i >> 1
    const [u, v] = [(vertex % (segments + 1)) / segments, Math.floor(vertex / (segments + 1)) / rings]
    return i % 2 ? v : Math.abs(u - 0.5)
  })
  const parts = [{ name: 'ball', material: null, from: 0, count: triangles.length / 3, uvSets: 1 }]
  return finishMesh({ positions, normals: null, uvSets: [uvs], colours: null, triangles, parts, notes: [] })
}

test('each corner keeps its vertex and its very tangent; none is there twice', () => {
  const mesh = ball(12, 16)
  const [part] = mesh.parts as [Mesh['parts'][number]]
  const corners = cornerTangents(mesh, part, mesh.uvSets[0]!)
  const { vertices, tangents, triangles } = dressedVertices(mesh, part, 0)
  const seen = new Set<string>()
  for (let i = 0; i < triangles.length; i++) {
    const at = triangles[i]!
    expect(vertices[at]).toBe(mesh.triangles[i])
    expect([...tangents!.subarray(at * 4, at * 4 + 4)]).toEqual([...corners.subarray(i * 4, i * 4 + 4)])
    seen.add(`${vertices[at]} ${tangents!.subarray(at * 4, at * 4 + 4).join(' ')}`)
  }
  expect(seen.size).toBe(vertices.length)
  // The seam of the mirror splits its vertices: more than the mesh has, far fewer than corners.
  expect(vertices.length).toBeGreaterThan(new Set(mesh.triangles).size)
  expect(vertices.length).toBeLessThan(triangles.length / 2)
  expect([...gathered(vertices, mesh.positions, 3).subarray(0, 3)]).toEqual([
    ...mesh.positions.subarray(vertices[0]! * 3, vertices[0]! * 3 + 3),
  ])
})

test('a part without the UV set has its vertices once, and no tangents', () => {
  const mesh = ball(4, 6)
  const { vertices, tangents } = dressedVertices(mesh, mesh.parts[0]!, 1)
  expect(tangents).toBeNull()
  expect(new Set(vertices).size).toBe(vertices.length)
})
