import type { Topology } from './topology'
import { nextEdge } from './topology'

/**
 * A layout on a raster, and the ways over its edges.
 * Shape, a half-edge: `places` two numbers, where it begins, in texels from the raster's corner; `lines` three: how far a point is on the
 * inner side of the edge (a·x + b·y + c), 0 on it and 1 at the opposite corner; `maps` six: the affine map that carries a point beyond
 * the edge to the adjoining triangle's own texels, both triangles laid flat about the edge at their true size.
 */
export interface Unfolding {
  readonly width: number
  readonly height: number
  readonly places: Float64Array
  readonly lines: Float64Array
  readonly maps: Float64Array
}

/** Length of the edge, and how far along and across it the third corner lies, in metres. */
function flat(positions: Float64Array, a: number, b: number, c: number): [number, number, number] {
  let [length, along, away] = [0, 0, 0]
  for (let k = 0; k < 3; k++) {
    const edge = positions[b * 3 + k]! - positions[a * 3 + k]!
    const other = positions[c * 3 + k]! - positions[a * 3 + k]!
    length += edge * edge
    along += edge * other
    away += other * other
  }
  length = Math.sqrt(length)
  along /= length
  return [length, along, Math.sqrt(Math.max(away - along * along, 0))]
}

export function unfold({ uvs, positions, twin, flipped }: Topology, width: number, height: number): Unfolding {
  const count = twin.length
  const places = Float64Array.from(uvs, (v, i) => v * (i % 2 ? height : width))
  const lines = new Float64Array(count * 3)
  const maps = new Float64Array(count * 6)
  for (let edge = 0; edge < count; edge++) {
    const [second, third] = [nextEdge(edge), nextEdge(nextEdge(edge))]
    const [x, y] = [places[edge * 2]!, places[edge * 2 + 1]!]
    const [ux, uy] = [places[second * 2]! - x, places[second * 2 + 1]! - y]
    const [vx, vy] = [places[third * 2]! - x, places[third * 2 + 1]! - y]
    const twice = ux * vy - uy * vx
    if (twice === 0) continue
    lines.set([-uy / twice, ux / twice, (uy * x - ux * y) / twice], edge * 3)
    const other = twin[edge]!
    if (other < 0) continue
    const [length, cx, cy] = flat(positions, edge, second, third)
    // From texels to metres along and across the edge; its own triangle lies at across > 0.
    const [j00, j01] = [(length * vy - cx * uy) / twice, (cx * ux - length * vx) / twice]
    const [j10, j11] = [(-cy * uy) / twice, (cy * ux) / twice]
    const [from, to] = flipped[edge] ? [other, nextEdge(other)] : [nextEdge(other), other]
    const far = nextEdge(nextEdge(other))
    const [reach, dx, dy] = flat(positions, from, to, far)
    const [X, Y] = [places[from * 2]!, places[from * 2 + 1]!]
    const [k00, k10] = [(places[to * 2]! - X) / reach, (places[to * 2 + 1]! - Y) / reach]
    const usable = dy > 1e-9 * reach && cy > 1e-9 * length
    const [k01, k11] = usable
      ? [(places[far * 2]! - X - k00 * dx) / dy, (places[far * 2 + 1]! - Y - k10 * dx) / dy]
      : [-k10, k00]
    // Beyond the edge is at across < 0 here, and at across > 0 there.
    const [a, b] = [k00 * j00 - k01 * j10, k00 * j01 - k01 * j11]
    const [c, d] = [k10 * j00 - k11 * j10, k10 * j01 - k11 * j11]
    maps.set([a, b, X - a * x - b * y, c, d, Y - c * x - d * y], edge * 6)
  }
  return { width, height, places, lines, maps }
}
