import type { Mesh } from '#core/mesh/mesh'
import { finishMesh } from '#core/mesh/mesh'
import { makeBody } from '#app/features/stage/body'

/** The body that materials are judged on, coarse and fine; it has no layout of its own. */
export function testBody(isHigh: boolean): Mesh {
  const { positions, normals, indices } = isHigh ? makeBody(0.03, 210) : makeBody(0.4, 40)
  const part = { name: 'Body', material: 'Material', from: 0, count: indices.length / 3, uvSets: 0 }
  const made = finishMesh({
    positions,
    normals,
    uvSets: [],
    colours: null,
    triangles: indices,
    parts: [part],
    notes: [],
  })
  return { ...made, notes: [] }
}
