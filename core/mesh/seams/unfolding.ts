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

/** Of an edge from a to b and a corner c: its length, and how far along and across it the corner lies, in metres. */
const flat = { length: 0, along: 0, across: 0 }

function layFlat(positions: Float64Array, a: number, b: number, c: number): void {
  let [length, along, away] = [0, 0, 0]
  for (let k = 0; k < 3; k++) {
    const edge = positions[b * 3 + k]! - positions[a * 3 + k]!
    const other = positions[c * 3 + k]! - positions[a * 3 + k]!
    length += edge * edge
    along += edge * other
    away += other * other
  }
  flat.length = Math.sqrt(length)
  flat.along = along / flat.length
  flat.across = Math.sqrt(Math.max(away - flat.along * flat.along, 0))
}

export function unfold({ uvs, positions, twin, flipped }: Topology, width: number, height: number): Unfolding {
  const count = twin.length
  const places = new Float64Array(uvs.length)
  for (let i = 0; i < uvs.length; i++) places[i] = uvs[i]! * (i % 2 ? height : width)
  const lines = new Float64Array(count * 3)
  const maps = new Float64Array(count * 6)
  for (let edge = 0; edge < count; edge++) {
    const second = nextEdge(edge)
    const third = nextEdge(second)
    const x = places[edge * 2]!
    const y = places[edge * 2 + 1]!
    const ux = places[second * 2]! - x
    const uy = places[second * 2 + 1]! - y
    const vx = places[third * 2]! - x
    const vy = places[third * 2 + 1]! - y
    const twice = ux * vy - uy * vx
    if (twice === 0) continue
    lines[edge * 3] = -uy / twice
    lines[edge * 3 + 1] = ux / twice
    lines[edge * 3 + 2] = (uy * x - ux * y) / twice
    const other = twin[edge]!
    if (other < 0) continue
    layFlat(positions, edge, second, third)
    const { length, along: cx, across: cy } = flat
    // From texels to metres along and across the edge; its own triangle lies at across > 0.
    const j00 = (length * vy - cx * uy) / twice
    const j01 = (cx * ux - length * vx) / twice
    const j10 = (-cy * uy) / twice
    const j11 = (cy * ux) / twice
    const from = flipped[edge] ? other : nextEdge(other)
    const to = flipped[edge] ? nextEdge(other) : other
    const far = nextEdge(nextEdge(other))
    layFlat(positions, from, to, far)
    const { length: reach, along: dx, across: dy } = flat
    const X = places[from * 2]!
    const Y = places[from * 2 + 1]!
    const k00 = (places[to * 2]! - X) / reach
    const k10 = (places[to * 2 + 1]! - Y) / reach
    const isUsable = dy > 1e-9 * reach && cy > 1e-9 * length
    const k01 = isUsable ? (places[far * 2]! - X - k00 * dx) / dy : -k10
    const k11 = isUsable ? (places[far * 2 + 1]! - Y - k10 * dx) / dy : k00
    // Beyond the edge is at across < 0 here, and at across > 0 there.
    const a = k00 * j00 - k01 * j10
    const b = k00 * j01 - k01 * j11
    const c = k10 * j00 - k11 * j10
    const d = k10 * j01 - k11 * j11
    const m = edge * 6
    maps[m] = a
    maps[m + 1] = b
    maps[m + 2] = X - a * x - b * y
    maps[m + 3] = c
    maps[m + 4] = d
    maps[m + 5] = Y - c * x - d * y
  }
  return { width, height, places, lines, maps }
}
