import type { LayoutFacts, OverlapFacts } from './layout-facts'
import { otherFacts, overlapFacts } from './layout-facts'
import { layoutOf } from './layout'
import type { Mesh, MeshPart } from './mesh'
import { boxOf } from './mesh'
import { findOverlaps } from './overlaps'
import { cornersOf } from './part-vertices'

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

export const meshSummary = (mesh: Mesh): MeshSummary => wholeSummary(summaryBesideOverlaps(mesh), overlapsIn(mesh))

/** How the triangles of each part lie over one another in each of its UV sets. */
export const overlapsIn = (mesh: Mesh): OverlapFacts[][] =>
  mesh.parts.map((part) =>
    mesh.uvSets.slice(0, part.uvSets).map((uvs) => overlapFacts(findOverlaps(cornersOf(mesh, part, uvs)))),
  )

/** Puts together what two threads found. */
export const wholeSummary = (rest: SummaryBesideOverlaps, overlaps: readonly OverlapFacts[][]): MeshSummary => ({
  ...rest,
  parts: rest.parts.map((part, i) => ({
    ...part,
    layouts: part.layouts.map((facts, set) => ({ ...facts, ...overlaps[i]![set]! })),
  })),
})

export interface SummaryBesideOverlaps extends Omit<MeshSummary, 'parts'> {
  readonly parts: readonly (Omit<PartSummary, 'layouts'> & {
    readonly layouts: readonly Omit<LayoutFacts, keyof OverlapFacts>[]
  })[]
}

export function summaryBesideOverlaps(mesh: Mesh): SummaryBesideOverlaps {
  const box = boxOf(mesh)
  return {
    triangles: mesh.triangles.length / 3,
    vertices: mesh.positions.length / 3,
    box,
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
        box:
          part.count * 3 === mesh.triangles.length
            ? box
            : boxOf({
                positions: mesh.positions,
                triangles: mesh.triangles.subarray(part.from * 3, (part.from + part.count) * 3),
              }),
        metresPerUnit: layouts.map(({ usedArea }) => (usedArea > 0 && area > 0 ? Math.sqrt(area / usedArea) : 1)),
        layouts: layouts.map((layout) => otherFacts(layout, 1)),
      }
    }),
  }
}

/** Area of a part in m². */
function areaOf({ positions, triangles }: Mesh, { from, count }: MeshPart): number {
  let area = 0
  for (let t = from; t < from + count; t++) {
    const p = triangles[t * 3]! * 3
    const q = triangles[t * 3 + 1]! * 3
    const r = triangles[t * 3 + 2]! * 3
    const ox = positions[p]!
    const oy = positions[p + 1]!
    const oz = positions[p + 2]!
    const a = positions[q]! - ox
    const b = positions[q + 1]! - oy
    const c = positions[q + 2]! - oz
    const d = positions[r]! - ox
    const e = positions[r + 1]! - oy
    const f = positions[r + 2]! - oz
    const x = b * f - c * e
    const y = c * d - a * f
    const z = a * e - b * d
    area += Math.sqrt(x * x + y * y + z * z) / 2
  }
  return area
}
