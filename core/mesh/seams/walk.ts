import type { Growing } from '../../growing'
import type { Topology } from './topology'
import { nextEdge } from './topology'
import type { Unfolding } from './unfolding'

/** Triangles that a line crosses at most. */
const MOST = 1024

/** Where a place beyond a border lies: in texels from the raster's corner, in which triangle, and the linear part of the way there. */
export interface Landing {
  x: number
  y: number
  triangle: number
  a: number
  b: number
  c: number
  d: number
  /** False where the line found no end: its foot on the border stands in. */
  found: boolean
}

export const landing = (): Landing => ({ x: 0, y: 0, triangle: 0, a: 1, b: 0, c: 0, d: 1, found: true })

/**
 * Follows the straight line from the nearest point of a border edge to a place beyond it over the surface, laid flat triangle by
 * triangle. Seams are edges like any other: any number of islands is crossed, and the line turns about corners by itself. Along an open
 * border it slides.
 */
export function walk(
  { twin }: Topology,
  { places, maps, lines }: Unfolding,
  border: number,
  toX: number,
  toY: number,
  out: Landing,
): Landing {
  let x = toX
  let y = toY
  let share = shareOf(places, border, x, y)
  share = share < 0 ? 0 : share > 1 ? 1 : share
  const beginX = footX(places, border, share)
  const beginY = footY(places, border, share)
  let fx = beginX
  let fy = beginY
  let a = 1
  let b = 0
  let c = 0
  let d = 1
  let triangle = Math.floor(border / 3)
  // Where the line leaves its triangle, and over which edge: the border to begin with.
  let edge = border
  let qx = fx
  let qy = fy
  for (let steps = 1; ; steps++) {
    let entered: number
    if (steps > MOST) return rest(out, beginX, beginY, Math.floor(border / 3), false)
    const other = twin[edge]!
    if (other < 0) {
      if (steps === 1) return rest(out, beginX, beginY, triangle, true)
      const along = shareOf(places, edge, x, y)
      x = footX(places, edge, along)
      y = footY(places, edge, along)
      fx = qx
      fy = qy
      entered = edge
    } else {
      const at = edge * 6
      const m0 = maps[at]!
      const m1 = maps[at + 1]!
      const m2 = maps[at + 2]!
      const m3 = maps[at + 3]!
      const m4 = maps[at + 4]!
      const m5 = maps[at + 5]!
      fx = m0 * qx + m1 * qy + m2
      fy = m3 * qx + m4 * qy + m5
      const nextX = m0 * x + m1 * y + m2
      y = m3 * x + m4 * y + m5
      x = nextX
      const nextA = m0 * a + m1 * c
      const nextB = m0 * b + m1 * d
      c = m3 * a + m4 * c
      d = m3 * b + m4 * d
      a = nextA
      b = nextB
      entered = other
      triangle = Math.floor(other / 3)
    }
    // The first edge that the line crosses on its way.
    edge = -1
    let first = 2
    for (let e = triangle * 3; e < triangle * 3 + 3; e++) {
      if (e === entered) continue
      const p = lines[e * 3]!
      const q = lines[e * 3 + 1]!
      const r = lines[e * 3 + 2]!
      const end = p * x + q * y + r
      if (end >= -1e-9) continue
      const begin = p * fx + q * fy + r
      const start = begin > 0 ? begin : 0
      const at = start / (start - end)
      if (at < first) {
        first = at
        edge = e
      }
    }
    if (edge < 0) break
    qx = fx + (x - fx) * first
    qy = fy + (y - fy) * first
  }
  out.x = x
  out.y = y
  out.triangle = triangle
  out.a = a
  out.b = b
  out.c = c
  out.d = d
  out.found = true
  return out
}

/** Where along an edge the point of its line lies that is nearest to a place: 0 at its beginning, 1 at its end. */
export function shareOf(places: Float64Array, edge: number, x: number, y: number): number {
  const next = nextEdge(edge)
  const ax = places[edge * 2]!
  const ay = places[edge * 2 + 1]!
  const bx = places[next * 2]! - ax
  const by = places[next * 2 + 1]! - ay
  return ((x - ax) * bx + (y - ay) * by) / (bx * bx + by * by)
}

export const footX = (places: Float64Array, edge: number, share: number): number =>
  places[edge * 2]! + share * (places[nextEdge(edge) * 2]! - places[edge * 2]!)
export const footY = (places: Float64Array, edge: number, share: number): number =>
  places[edge * 2 + 1]! + share * (places[nextEdge(edge) * 2 + 1]! - places[edge * 2 + 1]!)

function rest(out: Landing, x: number, y: number, triangle: number, found: boolean): Landing {
  return Object.assign(out, { x, y, triangle, a: 1, b: 0, c: 0, d: 1, found })
}

/** The turn of the nearest rigid motion (polar decomposition in the plane), mirrored first where the map mirrors: cosine, sine, ±1. */
export function turnInto(a: number, b: number, c: number, d: number, out: Growing<Float32Array>): void {
  const mirror = a * d - b * c < 0 ? -1 : 1
  const cosine = a + mirror * d
  const sine = c - mirror * b
  const length = Math.sqrt(cosine * cosine + sine * sine)
  out.add(length > 0 ? cosine / length : 1)
  out.add(length > 0 ? sine / length : 0)
  out.add(mirror)
}
