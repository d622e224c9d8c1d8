import { sphere } from '../../testing/solids'
import type { Solid } from '../../testing/solids'
import { bakePart, standardOptions, traced } from '../bake-part'
import type { BakeOptions, Texture } from '../baker'
import { bakers } from '../bakers/bakers.generated'
import { readObj } from '../formats/obj'
import type { Mesh } from '../mesh'
import { finishMesh } from '../mesh'
import type { SampleCount } from '../raster'

export const kind = (name: string) => bakers.find((one) => one.name === name)!
export const meshOf = (obj: string): Mesh => finishMesh(readObj(obj))

/** A closed grid of rings and segments as a mesh: where it is along both as UVs, and the normals that are given. */
export function gridMesh(
  { positions, triangles }: Solid,
  rings: number,
  segments: number,
  normals: Float32Array,
): Mesh {
  const uvs = Float32Array.from({ length: (rings + 1) * (segments + 1) * 2 }, (_, i) => {
    const vertex = i >> 1
    return i % 2 ? Math.floor(vertex / (segments + 1)) / rings : (vertex % (segments + 1)) / segments
  })
  const parts = [{ name: 'grid', material: null, from: 0, count: triangles.length / 3, uvSets: 1 }]
  return finishMesh({ positions, normals, uvSets: [uvs], colours: null, triangles, parts, notes: [] })
}

/** A ball of radius r: latitude and longitude as UVs, its own normals exact. */
export function ball(radius: number, rings = 64, segments = 128): Mesh {
  const solid = sphere(radius, rings, segments)
  return gridMesh(solid, rings, segments, solid.positions.slice())
}

/** A surface over turns (s around, t along) as a mesh; its normals are exact. */
export function swept(
  at: (s: number, t: number) => { readonly place: readonly number[]; readonly normal: readonly number[] },
  rings: number,
  segments: number,
): Mesh {
  const [positions, normals, triangles]: [number[], number[], number[]] = [[], [], []]
  for (let r = 0; r <= rings; r++)
    for (let s = 0; s <= segments; s++) {
      const { place, normal } = at(s / segments, r / rings)
      positions.push(...place)
      normals.push(...normal)
    }
  const corner = (r: number, s: number): number => r * (segments + 1) + s
  for (let r = 0; r < rings; r++)
    for (let s = 0; s < segments; s++)
      triangles.push(
        corner(r, s),
        corner(r + 1, s),
        corner(r, s + 1),
        corner(r, s + 1),
        corner(r + 1, s),
        corner(r + 1, s + 1),
      )
  const solid = { positions: new Float32Array(positions), triangles: new Uint32Array(triangles) }
  return gridMesh(solid, rings, segments, new Float32Array(normals))
}

/** A square of `side` metres on the ground with the whole tile, and whatever else stands there. */
export const ground = (side: number, more = ''): string => {
  const h = side / 2
  return `o ground\nv ${-h} 0 ${h}\nv ${h} 0 ${h}\nv ${h} 0 ${-h}\nv ${-h} 0 ${-h}\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n${more}`
}

interface Asked {
  width?: number
  height?: number
  samples?: SampleCount
  high?: Mesh
  cage?: Float32Array
  texture?: Texture
  padding?: number
  part?: number
  options?: Partial<BakeOptions>
}

/** Bakes one kind of a part on this thread. */
export async function bake(
  mesh: Mesh,
  name: string,
  { width = 32, height = width, samples = 1, high, cage, texture, padding = 0, part = 0, options = {} }: Asked = {},
) {
  const scene = traced(high ?? mesh)
  const { fields, covered, missed, missedAt } = await bakePart({
    mesh,
    part: mesh.parts[part]!,
    uvSet: 0,
    target: { width, height, left: 0, top: 0 },
    samples,
    bakers: [kind(name)],
    options: { ...standardOptions(mesh), ...options },
    scene,
    high: high ? scene : null,
    cage,
    texture,
    padding,
  })
  return { planes: fields.get(name)!.planes, covered, missed: missed[name]!, missedAt: missedAt.get(name), width }
}

/** Normals of a mesh whose faces share no vertices' normals: each vertex gets that of a face; faces are split by their UVs. */
export function flatNormals({ positions, triangles }: Mesh): Float32Array {
  const out = new Float32Array(positions.length)
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => triangles[t + k]! * 3) as [number, number, number]
    const [u, v] = [b, c].map((to) => [0, 1, 2].map((k) => positions[to + k]! - positions[a + k]!)) as [
      number[],
      number[],
    ]
    const n = [0, 1, 2].map((k) => u[(k + 1) % 3]! * v[(k + 2) % 3]! - u[(k + 2) % 3]! * v[(k + 1) % 3]!)
    const length = Math.sqrt(n.reduce((sum, one) => sum + one * one, 0))
    for (const vertex of [a, b, c])
      out.set(
        n.map((one) => one / length),
        vertex,
      )
  }
  return out
}
