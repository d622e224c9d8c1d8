import type { Mesh } from './mesh'
import { tilePlace } from './mesh-data'

/**
 * Triangles by the UDIM number of the tile that their middles lie in, tiles in the order of their numbers: of each triangle the place of
 * its first corner in `triangles`. Shape: `triangles` three vertices each, `uvs` two numbers a vertex, v downward.
 */
export function trianglesByTile(triangles: Uint32Array, uvs: Float32Array): Map<number, number[]> {
  const found = new Map<number, number[]>()
  for (let t = 0; t < triangles.length; t += 3) {
    const middle = (k: number): number =>
      Math.floor((uvs[triangles[t]! * 2 + k]! + uvs[triangles[t + 1]! * 2 + k]! + uvs[triangles[t + 2]! * 2 + k]!) / 3)
    const udim = 1001 + middle(0) - 10 * middle(1)
    const list = found.get(udim)
    if (list) list.push(t)
    else found.set(udim, [t])
  }
  return new Map([...found].sort(([a], [b]) => a - b))
}

/** Triangles by the places of their first corners, three vertices each. */
export function gatheredTriangles(triangles: Uint32Array, places: readonly number[]): Uint32Array<ArrayBuffer> {
  const out = new Uint32Array(places.length * 3)
  places.forEach((t, i) => out.set(triangles.subarray(t, t + 3), i * 3))
  return out
}

/**
 * What of a part lies in one tile of a UV set, as a mesh in which it is the only part, with UVs of that set that span 0–1 there. `udim` is
 * the number of the tile; without one the part has no more than one, and is given back as it is.
 */
export function partInTile(
  mesh: Mesh,
  part: number,
  uvSet: number,
  udim: number | undefined,
): { readonly mesh: Mesh; readonly part: number } {
  const uvs = mesh.uvSets[uvSet]
  if (udim === undefined || !uvs) return { mesh, part }
  const { from, count, ...own } = mesh.parts[part]!
  const all = mesh.triangles.subarray(from * 3, (from + count) * 3)
  const triangles = gatheredTriangles(all, trianglesByTile(all, uvs).get(udim) ?? [])
  const { left, top } = tilePlace(udim)
  const shifted = uvs.map((value, i) => value - (i % 2 ? top : left))
  return {
    mesh: {
      ...mesh,
      triangles,
      uvSets: mesh.uvSets.map((set, i) => (i === uvSet ? shifted : set)),
      parts: [{ ...own, from: 0, count: triangles.length / 3 }],
    },
    part: 0,
  }
}
