import type { Mesh } from './mesh'
import { tilePlace } from './mesh-data'
import { gathered } from './gathered'

/**
 * Triangles by the UDIM number of the tile that their middles lie in, tiles in the order of their numbers: of each triangle its place in
 * `triangles`, from 0. Shape: `triangles` three vertices each, `uvs` two numbers a vertex, v downward.
 */
export function trianglesByTile(triangles: Uint32Array, uvs: Float32Array): Map<number, Uint32Array<ArrayBuffer>> {
  const udims = new Float64Array(triangles.length / 3)
  const tiles = new Map<number, { count: number; list: Uint32Array<ArrayBuffer> }>()
  // Neighbours lie in one tile, as a rule.
  let [udim, tile] = [NaN, { count: 0, list: new Uint32Array() }]
  for (let t = 0; t < udims.length; t++) {
    const [a, b, c] = [triangles[t * 3]! * 2, triangles[t * 3 + 1]! * 2, triangles[t * 3 + 2]! * 2]
    const across = Math.floor((uvs[a]! + uvs[b]! + uvs[c]!) / 3)
    const down = Math.floor((uvs[a + 1]! + uvs[b + 1]! + uvs[c + 1]!) / 3)
    udims[t] = 1001 + across - 10 * down
    if (udims[t] !== udim) {
      udim = udims[t]!
      tile = tiles.get(udim) ?? { count: 0, list: new Uint32Array() }
      tiles.set(udim, tile)
    }
    tile.count++
  }
  for (const one of tiles.values()) [one.list, one.count] = [new Uint32Array(one.count), 0]
  udim = NaN
  for (let t = 0; t < udims.length; t++) {
    if (udims[t] !== udim) [udim, tile] = [udims[t]!, tiles.get(udims[t]!)!]
    tile.list[tile.count++] = t
  }
  return new Map([...tiles].map(([number, { list }]) => [number, list] as const).sort(([a], [b]) => a - b))
}

/** Triangles by their places, three vertices each. */
export const gatheredTriangles = (triangles: Uint32Array, places: Uint32Array): Uint32Array<ArrayBuffer> =>
  gathered(places, triangles, 3)

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
  const triangles = gatheredTriangles(all, trianglesByTile(all, uvs).get(udim) ?? new Uint32Array())
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
