import type { LayoutFacts } from './layout-facts'
import { layoutFacts } from './layout-facts'
import { layoutOf } from './layout'
import type { Mesh } from './mesh'
import { partInTile } from './tile-of-part'
import { meshSummary } from './mesh-summary'
import type { Topology } from './seams/topology'
import { INNER, SEAM, nextEdge, topologyOf } from './seams/topology'

/** How a part lies in its UV layout, and how finely beside the other parts of its model: what maps on it are checked against. */
export interface PartLayout {
  /** At a width of 1 texel (layoutFactsAt). */
  readonly facts: LayoutFacts
  readonly metresPerUnit: number
  readonly others: readonly { readonly name: string; readonly metresPerUnit: number }[]
  /**
   * Edges where the surface goes on smoothly, over a seam of the layout and inside an island: twelve numbers each, u v of both ends
   * and of the opposite corner of the triangle on one side, then the same of the other side, ends in the same order.
   */
  readonly seams: Float64Array
  readonly inner: Float64Array
}

/** Cosine of the angle between triangles up to which a surface goes on smoothly: about 30°. */
const SMOOTH = 0.866

/**
 * How a part lies in a UV set, or in the tile of it with the number `udim`, where it has several. Throws mesh-invalid where the part has no
 * such UV set.
 */
export function partLayoutOf(mesh: Mesh, part: number, uvSet: number, udim?: number): PartLayout {
  const { parts } = meshSummary(mesh)
  const own = parts[part]!
  const here = partInTile(mesh, part, uvSet, udim)
  const topology = topologyOf(here.mesh, here.mesh.parts[here.part]!, uvSet)
  return {
    facts:
      udim === undefined
        ? own.layouts[uvSet]!
        : layoutFacts(layoutOf(here.mesh, here.mesh.parts[here.part]!, uvSet), 1),
    metresPerUnit: own.metresPerUnit[uvSet]!,
    others: parts.flatMap(({ name, metresPerUnit }, i) =>
      i === part || metresPerUnit[uvSet] === undefined ? [] : [{ name, metresPerUnit: metresPerUnit[uvSet] }],
    ),
    seams: smoothEdges(topology, SEAM),
    inner: smoothEdges(topology, INNER),
  }
}

function smoothEdges({ uvs, positions, twin, kind, flipped }: Topology, wanted: number): Float64Array {
  const found: number[] = []
  const uv = (corner: number): [number, number] => [uvs[corner * 2]!, uvs[corner * 2 + 1]!]
  for (let edge = 0; edge < twin.length; edge++) {
    const other = twin[edge]!
    // Each pair once.
    if (kind[edge] !== wanted || other < edge) continue
    const [from, to] = flipped[edge] ? [other, nextEdge(other)] : [nextEdge(other), other]
    const turned = flipped[edge] ? -1 : 1
    if (turned * cosine(normalOf(positions, edge), normalOf(positions, other)) < SMOOTH) continue
    found.push(...uv(edge), ...uv(nextEdge(edge)), ...uv(nextEdge(nextEdge(edge))))
    found.push(...uv(from), ...uv(to), ...uv(nextEdge(nextEdge(other))))
  }
  return Float64Array.from(found)
}

type Vector = readonly [number, number, number]

/** Normal of the triangle of a half-edge, as long as twice its area. */
function normalOf(positions: Float64Array, edge: number): Vector {
  const first = Math.floor(edge / 3) * 3
  const at = (corner: number, axis: number): number =>
    positions[(first + corner) * 3 + axis]! - positions[first * 3 + axis]!
  const [a, b, c, d, e, f] = [at(1, 0), at(1, 1), at(1, 2), at(2, 0), at(2, 1), at(2, 2)]
  return [b * f - c * e, c * d - a * f, a * e - b * d]
}

const dot = (a: Vector, b: Vector): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]

/** Cosine of the angle between two vectors; −1 where one has no length. */
function cosine(a: Vector, b: Vector): number {
  const length = Math.sqrt(dot(a, a) * dot(b, b))
  return length > 0 ? dot(a, b) / length : -1
}
