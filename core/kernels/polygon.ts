import { cosTurns, sinTurns } from '../elementary'

/** Corners x₀, y₀, x₁, y₁ … in order around. */
export type Polygon = readonly number[]

/**
 * Signed distance to a simple polygon: positive inside, exactly the distance to the nearest edge on both sides.
 * Source: distance to a segment by projection, inside by the crossing number; J. O'Rourke, "Computational Geometry in
 * C", sections 1.5 and 7.4.
 */
export function polygonDistance(corners: Polygon | Float64Array, x: number, y: number): number {
  const n = corners.length
  let min = Infinity
  let inside = false
  let ax = corners[n - 2]!
  let ay = corners[n - 1]!
  for (let i = 0; i < n; i += 2) {
    const bx = corners[i]!
    const by = corners[i + 1]!
    const ex = bx - ax
    const ey = by - ay
    const px = x - ax
    const py = y - ay
    const square = ex * ex + ey * ey
    let t = square > 0 ? (px * ex + py * ey) / square : 0
    t = t < 0 ? 0 : t > 1 ? 1 : t
    const dx = px - t * ex
    const dy = py - t * ey
    const d = dx * dx + dy * dy
    if (d < min) min = d
    if (ay > y !== by > y && x < ax + ((y - ay) / ey) * ex) inside = !inside
    ax = bx
    ay = by
  }
  const distance = Math.sqrt(min)
  return inside ? distance : -distance
}

/** The part of a convex polygon where nx·x + ny·y ≥ least; empty where nothing is left. */
export function clipPolygon(corners: Polygon, nx: number, ny: number, min: number): Polygon {
  const out: number[] = []
  const n = corners.length
  for (let i = 0; i < n; i += 2) {
    const ax = corners[i]!
    const ay = corners[i + 1]!
    const bx = corners[(i + 2) % n]!
    const by = corners[(i + 3) % n]!
    const da = nx * ax + ny * ay - min
    const db = nx * bx + ny * by - min
    if (da >= 0) out.push(ax, ay)
    if (da >= 0 !== db >= 0) {
      const t = da / (da - db)
      out.push(ax + (bx - ax) * t, ay + (by - ay) * t)
    }
  }
  return out.length >= 6 ? out : []
}

/** Twice the area, positive for corners in clockwise order as seen (v down). */
export function doubleArea(corners: Polygon): number {
  let sum = 0
  const n = corners.length
  for (let i = 0; i < n; i += 2) sum += corners[i]! * corners[(i + 3) % n]! - corners[(i + 2) % n]! * corners[i + 1]!
  return sum
}

/** A convex polygon with every edge moved in by `by`; empty where nothing is left. */
export function insetPolygon(corners: Polygon, by: number): Polygon {
  const turn = doubleArea(corners) < 0 ? -1 : 1
  const n = corners.length
  let out: Polygon = corners
  for (let i = 0; i < n && out.length > 0; i += 2) {
    const ax = corners[i]!
    const ay = corners[i + 1]!
    const ex = corners[(i + 2) % n]! - ax
    const ey = corners[(i + 3) % n]! - ay
    const length = Math.sqrt(ex * ex + ey * ey)
    if (length < 1e-12) continue
    const nx = (-ey / length) * turn
    const ny = (ex / length) * turn
    out = clipPolygon(out, nx, ny, nx * ax + ny * ay + by)
  }
  return out
}

/** The largest inset that leaves something, to within a thousandth of itself. */
export function inradius(corners: Polygon): number {
  let low = 0
  let high = Math.sqrt(Math.abs(doubleArea(corners)))
  for (let i = 0; i < 24; i++) {
    const middle = (low + high) / 2
    if (insetPolygon(corners, middle).length > 0) low = middle
    else high = middle
  }
  return low
}

export function centroid(corners: Polygon): [number, number] {
  let area = 0
  let x = 0
  let y = 0
  const n = corners.length
  for (let i = 0; i < n; i += 2) {
    const [ax, ay, bx, by] = [corners[i]!, corners[i + 1]!, corners[(i + 2) % n]!, corners[(i + 3) % n]!]
    const cross = ax * by - bx * ay
    area += cross
    x += (ax + bx) * cross
    y += (ay + by) * cross
  }
  return [x / (3 * area), y / (3 * area)]
}

/** Corners turned counter-clockwise as seen (v down) and scaled about a point, then moved. */
export function placePolygon(
  corners: Polygon,
  [cx, cy]: readonly [number, number],
  turns: number,
  scale: number,
  [mx, my]: readonly [number, number],
): Polygon {
  const c = cosTurns(turns) * scale
  const s = sinTurns(turns) * scale
  const out: number[] = []
  for (let i = 0; i < corners.length; i += 2) {
    const x = corners[i]! - cx
    const y = corners[i + 1]! - cy
    out.push(cx + mx + x * c + y * s, cy + my - x * s + y * c)
  }
  return out
}

/** A regular polygon or, with an inner radius below the outer, a star; one corner points up. */
export function starPolygon(points: number, radius: number, inner: number | null): Polygon {
  const out: number[] = []
  for (let k = 0; k < points; k++) {
    out.push(radius * sinTurns(k / points), -radius * cosTurns(k / points))
    if (inner !== null) out.push(inner * sinTurns((k + 0.5) / points), -inner * cosTurns((k + 0.5) / points))
  }
  return out
}
