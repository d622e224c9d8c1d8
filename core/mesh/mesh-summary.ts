import type { LayoutFacts } from './layout-facts'
import { layoutFacts } from './layout-facts'
import { layoutOf } from './layout'
import type { Mesh, MeshPart } from './mesh'
import { boxOf } from './mesh'

/** What is known of a mesh without its arrays. */
export interface MeshSummary {
  readonly triangles: number
  readonly vertices: number
  readonly box: { readonly min: readonly number[]; readonly max: readonly number[] }
  readonly uvSets: number
  readonly colours: boolean
  readonly notes: readonly string[]
  readonly parts: readonly PartSummary[]
}

export interface PartSummary {
  readonly name: string
  readonly material: string | null
  readonly triangles: number
  /** The box around it, in metres. */
  readonly box: { readonly min: readonly number[]; readonly max: readonly number[] }
  /** By UV set: metres that one unit of UV spans, the root of its area over its area in UV; 1 where it has none there. */
  readonly metresPerUnit: readonly number[]
  /** How it lies in each of its UV sets, at a width of 1 texel (layoutFactsAt). */
  readonly layouts: readonly LayoutFacts[]
}

export const meshSummary = (mesh: Mesh): MeshSummary => ({
  triangles: mesh.triangles.length / 3,
  vertices: mesh.positions.length / 3,
  box: boxOf(mesh),
  uvSets: mesh.uvSets.length,
  colours: mesh.colours !== null,
  notes: mesh.notes,
  parts: mesh.parts.map((part) => {
    const layouts = Array.from({ length: part.uvSets }, (_, set) => layoutOf(mesh, part, set))
    const area = areaOf(mesh, part)
    return {
      name: part.name,
      material: part.material,
      triangles: part.count,
      box: boxOf({
        positions: mesh.positions,
        triangles: mesh.triangles.subarray(part.from * 3, (part.from + part.count) * 3),
      }),
      metresPerUnit: layouts.map(({ usedArea }) => (usedArea > 0 && area > 0 ? Math.sqrt(area / usedArea) : 1)),
      layouts: layouts.map((layout) => layoutFacts(layout, 1)),
    }
  }),
})

/** Area of a part in m². */
function areaOf({ positions, triangles }: Mesh, { from, count }: MeshPart): number {
  let area = 0
  for (let t = from; t < from + count; t++) {
    const [p, q, r] = [triangles[t * 3]! * 3, triangles[t * 3 + 1]! * 3, triangles[t * 3 + 2]! * 3]
    const [ox, oy, oz] = [positions[p]!, positions[p + 1]!, positions[p + 2]!]
    const [a, b, c] = [positions[q]! - ox, positions[q + 1]! - oy, positions[q + 2]! - oz]
    const [d, e, f] = [positions[r]! - ox, positions[r + 1]! - oy, positions[r + 2]! - oz]
    const [x, y, z] = [b * f - c * e, c * d - a * f, a * e - b * d]
    area += Math.sqrt(x * x + y * y + z * z) / 2
  }
  return area
}
