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

/** The point of an edge that is nearest to a place. */
function footOf({ places }: Unfolding, edge: number, x: number, y: number, within: boolean): [number, number] {
  const next = nextEdge(edge)
  const [ax, ay] = [places[edge * 2]!, places[edge * 2 + 1]!]
  const [bx, by] = [places[next * 2]! - ax, places[next * 2 + 1]! - ay]
  const along = ((x - ax) * bx + (y - ay) * by) / (bx * bx + by * by)
  const held = within ? Math.min(1, Math.max(0, along)) : along
  return [ax + held * bx, ay + held * by]
}

/**
 * Follows the straight line from the nearest point of a border edge to a place beyond it over the surface, laid flat triangle by
 * triangle. Seams are edges like any other: any number of islands is crossed, and the line turns about corners by itself. Along an open
 * border it slides.
 */
export function walk(
  topology: Topology,
  unfolding: Unfolding,
  border: number,
  x: number,
  y: number,
  out: Landing,
): Landing {
  const { maps, lines } = unfolding
  const { twin } = topology
  const begun = footOf(unfolding, border, x, y, true)
  let [fx, fy] = begun
  let [a, b, c, d] = [1, 0, 0, 1]
  let triangle = Math.floor(border / 3)
  let [edge, share] = [border, 0]
  /** The edge over which the line leaves its triangle, and after what share of it. */
  const leave = (entered: number): void => {
    edge = -1
    share = 2
    for (let e = triangle * 3; e < triangle * 3 + 3; e++) {
      if (e === entered) continue
      const end = lines[e * 3]! * x + lines[e * 3 + 1]! * y + lines[e * 3 + 2]!
      if (end >= -1e-9) continue
      const start = Math.max(0, lines[e * 3]! * fx + lines[e * 3 + 1]! * fy + lines[e * 3 + 2]!)
      const at = start / (start - end)
      if (at < share) {
        share = at
        edge = e
      }
    }
  }
  for (let steps = 1; edge >= 0; steps++) {
    const [qx, qy] = [fx + (x - fx) * share, fy + (y - fy) * share]
    if (steps > MOST) return rest(out, begun, Math.floor(border / 3), false)
    if (twin[edge]! < 0) {
      if (steps === 1) return rest(out, begun, triangle, true)
      const slid = footOf(unfolding, edge, x, y, false)
      fx = qx
      fy = qy
      ;[x, y] = slid
      leave(edge)
      continue
    }
    const at = edge * 6
    const [m0, m1, m2, m3, m4, m5] = [
      maps[at]!,
      maps[at + 1]!,
      maps[at + 2]!,
      maps[at + 3]!,
      maps[at + 4]!,
      maps[at + 5]!,
    ]
    fx = m0 * qx + m1 * qy + m2
    fy = m3 * qx + m4 * qy + m5
    ;[x, y] = [m0 * x + m1 * y + m2, m3 * x + m4 * y + m5]
    ;[a, b, c, d] = [m0 * a + m1 * c, m0 * b + m1 * d, m3 * a + m4 * c, m3 * b + m4 * d]
    const entered = twin[edge]!
    triangle = Math.floor(entered / 3)
    leave(entered)
  }
  return Object.assign(out, { x, y, triangle, a, b, c, d, found: true })
}

const rest = (out: Landing, [x, y]: [number, number], triangle: number, found: boolean): Landing =>
  Object.assign(out, { x, y, triangle, a: 1, b: 0, c: 0, d: 1, found })
