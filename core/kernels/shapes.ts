import { floorMod } from '../field/field'
import { cosTurns, sinTurns } from '../elementary'
import { inradius, insetPolygon, polygonDistance, starPolygon } from './polygon'

export const SHAPES = ['disc', 'box', 'polygon', 'star', 'ring', 'capsule', 'cross'] as const
export type ShapeName = (typeof SHAPES)[number]

export interface ShapeRequest {
  readonly shape: ShapeName
  /** Width and height of the box it fits into; a ring, polygon or star fits into the lesser; an uneven disc is an ellipse. */
  readonly size: readonly [number, number]
  readonly rounding: number
  /** Corners of a polygon, points of a star. */
  readonly sides: number
  /** Inner over outer radius of a star; thickness of a ring or of a cross's arms over its radius. */
  readonly inner: number
}

type Distance = (x: number, y: number) => number

/**
 * Signed distance to a shape about the origin, v down: positive inside, exact on both sides.
 * Rounding takes from the corners: the shape is drawn in by it and grown again. Stars and crosses, which cannot be drawn
 * in along their edges, are made smaller instead, so only their outer corners round. Source: as kernels/polygon.ts.
 */
export function shapeDistance({ shape, size, rounding, sides, inner }: ShapeRequest): Distance {
  const half: [number, number] = [size[0] / 2, size[1] / 2]
  const radius = Math.min(...half)
  const length = (x: number, y: number): number => Math.sqrt(x * x + y * y)
  const convex = (corners: readonly number[]): Distance => {
    const round = Math.min(rounding, inradius(corners) * 0.98)
    const core = Float64Array.from(round > 0 ? insetPolygon(corners, round) : corners)
    return (x, y) => polygonDistance(core, x, y) + round
  }
  const shrunk = (corners: readonly number[]): Distance => {
    const round = Math.min(rounding, radius * 0.9)
    const core = Float64Array.from(corners, (v) => v * (1 - round / radius))
    return (x, y) => polygonDistance(core, x, y) + round
  }
  const makers: Record<ShapeName, () => Distance> = {
    disc: () => (half[0] === half[1] ? (x, y) => radius - length(x, y) : ellipseDistance(half)),
    box: () => convex([-half[0], -half[1], half[0], -half[1], half[0], half[1], -half[0], half[1]]),
    polygon: () => convex(starPolygon(sides, radius, null)),
    star: () => shrunk(starPolygon(sides, radius, radius * inner)),
    ring: () => {
      const thick = (radius * inner) / 2
      return (x, y) => thick - Math.abs(length(x, y) - (radius - thick))
    },
    capsule: () => {
      const reach = Math.abs(half[0] - half[1])
      const lies = half[0] >= half[1]
      return (x, y) => {
        const [a, b] = lies ? [x, y] : [y, x]
        const past = Math.abs(a) - reach
        return radius - (past > 0 ? length(past, b) : Math.abs(b))
      }
    },
    cross: () => {
      const [w, h] = half
      const t = radius * inner
      // Twelve corners, clockwise from the top arm's left one.
      return shrunk([-t, -h, t, -h, t, -t, w, -t, w, t, t, t, t, h, -t, h, -t, t, -w, t, -w, -t, -t, -t])
    },
  }
  return makers[shape]()
}

/** Steps of the search below: after four the error is below 1e-4 of the axes, also for one ten times the other. */
const ELLIPSE_STEPS = 5

/**
 * Distance to an ellipse: positive inside. A point of the curve is moved along the circle that touches the curve there, until
 * it is the nearest. Source: C. Chatfield, "Simple Method for Distance to Ellipse" (2017, from memory), with roots only.
 */
function ellipseDistance([a, b]: readonly [number, number]): Distance {
  const [over, under] = [(a * a - b * b) / a, (b * b - a * a) / b]
  return (x, y) => {
    const [px, py] = [Math.abs(x), Math.abs(y)]
    let tx = Math.SQRT1_2
    let ty = Math.SQRT1_2
    for (let step = 0; step < ELLIPSE_STEPS; step++) {
      // The centre of curvature at (a·tx, b·ty), and the ways from it to the curve and to the point.
      const ex = over * tx * tx * tx
      const ey = under * ty * ty * ty
      const [rx, ry] = [a * tx - ex, b * ty - ey]
      const [qx, qy] = [px - ex, py - ey]
      const far = Math.sqrt(qx * qx + qy * qy)
      const ratio = far > 0 ? Math.sqrt(rx * rx + ry * ry) / far : 0
      tx = Math.max(0, Math.min(1, (qx * ratio + ex) / a))
      ty = Math.max(0, Math.min(1, (qy * ratio + ey) / b))
      const size = Math.sqrt(tx * tx + ty * ty)
      tx /= size
      ty /= size
    }
    const [dx, dy] = [px - a * tx, py - b * ty]
    const inside = (px * px) / (a * a) + (py * py) / (b * b) < 1
    return inside ? Math.sqrt(dx * dx + dy * dy) : -Math.sqrt(dx * dx + dy * dy)
  }
}

/**
 * The same repeated: cells of the tile each hold one, turned; the nearest of the own and the eight cells around counts.
 * Units: tile; `repeat` across and down, `height` the tile's.
 */
export function repeatedShape(
  distance: Distance,
  repeat: readonly [number, number],
  height: number,
  centre: readonly [number, number],
  turns: number,
): Distance {
  const [cw, ch] = [1 / repeat[0], height / repeat[1]]
  const cos = cosTurns(turns)
  const sin = sinTurns(turns)
  return (u, v) => {
    const x = floorMod(u - centre[0] + cw / 2, cw) - cw / 2
    const y = floorMod(v - centre[1] * height + ch / 2, ch) - ch / 2
    let max = -Infinity
    for (let j = -1; j <= 1; j++)
      for (let i = -1; i <= 1; i++) {
        const px = x - i * cw
        const py = y - j * ch
        const d = distance(px * cos - py * sin, px * sin + py * cos)
        if (d > max) max = d
      }
    return max
  }
}
