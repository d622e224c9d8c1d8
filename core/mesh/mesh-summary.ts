import type { LayoutFacts } from './layout-facts'
import { layoutFacts } from './layout-facts'
import { layoutOf } from './layout'
import type { Mesh } from './mesh'
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
  parts: mesh.parts.map((part) => ({
    name: part.name,
    material: part.material,
    triangles: part.count,
    layouts: Array.from({ length: part.uvSets }, (_, set) => layoutFacts(layoutOf(mesh, part, set), 1)),
  })),
})
