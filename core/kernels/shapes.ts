import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { cosTurns, sinTurns } from '../elementary'
import { coverage } from './point'
import type { Rows } from './rows'
import { simd } from './simd'
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
 * A figure as plain numbers, what they mean going by its kind: a polygon drawn in and grown again by `a`, its corners given; a
 * disc of radius `a`; an ellipse of half axes `a` and `b`; a ring `a` thick to each side of the radius `b`; a capsule of radius
 * `a` whose middle line reaches `b` to each side, along x where `c` is 1, else along y. `reach` is how far it goes from its middle.
 */
export interface Figure {
  readonly kind: (typeof FIGURES)[number]
  readonly corners: Float64Array
  readonly a: number
  readonly b: number
  readonly c: number
  readonly reach: number
}

/** In the order of their numbers in core/kernels/assembly/shape.ts. */
export const FIGURES = ['polygon', 'disc', 'ellipse', 'ring', 'capsule'] as const

const NO_CORNERS = new Float64Array(0)

/**
 * A shape about the origin, v down. Rounding takes from the corners: the shape is drawn in by it and grown again. Stars and
 * crosses, which cannot be drawn in along their edges, are made smaller instead, so only their outer corners round.
 */
export function figureOf({ shape, size, rounding, sides, inner }: ShapeRequest): Figure {
  const half: [number, number] = [size[0] / 2, size[1] / 2]
  const radius = Math.min(...half)
  const plain = { corners: NO_CORNERS, b: 0, c: 0 }
  const polygon = (core: Float64Array, round: number): Figure => {
    let square = 0
    for (let i = 0; i < core.length; i += 2)
      square = Math.max(square, core[i]! * core[i]! + core[i + 1]! * core[i + 1]!)
    return { ...plain, kind: 'polygon', corners: core, a: round, reach: Math.sqrt(square) + round }
  }
  const convex = (corners: readonly number[]): Figure => {
    const round = Math.min(rounding, inradius(corners) * 0.98)
    return polygon(Float64Array.from(round > 0 ? insetPolygon(corners, round) : corners), round)
  }
  const shrunk = (corners: readonly number[]): Figure => {
    const round = Math.min(rounding, radius * 0.9)
    return polygon(
      Float64Array.from(corners, (v) => v * (1 - round / radius)),
      round,
    )
  }
  const makers: Record<ShapeName, () => Figure> = {
    disc: () =>
      half[0] === half[1]
        ? { ...plain, kind: 'disc', a: radius, reach: radius }
        : // Its distance is not quite exact.
          { ...plain, kind: 'ellipse', a: half[0], b: half[1], reach: Math.max(...half) * 1.01 },
    box: () => convex([-half[0], -half[1], half[0], -half[1], half[0], half[1], -half[0], half[1]]),
    polygon: () => convex(starPolygon(sides, radius, null)),
    star: () => shrunk(starPolygon(sides, radius, radius * inner)),
    ring: () => {
      const thick = (radius * inner) / 2
      return { ...plain, kind: 'ring', a: thick, b: radius - thick, reach: radius }
    },
    capsule: () => {
      const reach = Math.abs(half[0] - half[1])
      return { ...plain, kind: 'capsule', a: radius, b: reach, c: half[0] >= half[1] ? 1 : 0, reach: radius + reach }
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

const length = (x: number, y: number): number => Math.sqrt(x * x + y * y)

/** Signed distance to a figure: positive inside, exact on both sides. Source: as kernels/polygon.ts. */
export function figureDistance({ kind, corners, a, b, c }: Figure): Distance {
  if (kind === 'polygon') return (x, y) => polygonDistance(corners, x, y) + a
  if (kind === 'disc') return (x, y) => a - length(x, y)
  if (kind === 'ellipse') return ellipseDistance([a, b])
  if (kind === 'ring') return (x, y) => a - Math.abs(length(x, y) - b)
  return (x, y) => {
    const [along, beside] = c === 1 ? [x, y] : [y, x]
    const past = Math.abs(along) - b
    return a - (past > 0 ? length(past, beside) : Math.abs(beside))
  }
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

/** Figures in cells of the tile, one each, turned. Units: tile; `repeat` across and down, `height` the tile's. */
export interface Repeated {
  readonly repeat: readonly [number, number]
  readonly height: number
  readonly centre: readonly [number, number]
  /** Turns, counter-clockwise. */
  readonly turns: number
  /** Width of the edge. */
  readonly edge: number
}

/**
 * Signed distance to repeated figures and how much of each texel they cover; the nearest of the own and the eight cells
 * around counts.
 */
export function shapeFields(
  figure: Figure,
  repeated: Repeated,
  out: { grey?: Field; distance?: Field },
  rows: Rows,
): void {
  const some = out.grey ?? out.distance
  if (!some) return
  const { repeat, height, centre, turns, edge } = repeated
  const { width } = some
  const [cw, ch] = [1 / repeat[0], height / repeat[1]]
  const cos = cosTurns(turns)
  const sin = sinTurns(turns)
  const xs = Float64Array.from(
    { length: width },
    (_, x) => floorMod((x + 0.5) / width - centre[0] + cw / 2, cw) - cw / 2,
  )
  const downAt = (y: number): number =>
    floorMod((floorMod(y, some.height) + 0.5) / width - centre[1] * height + ch / 2, ch) - ch / 2
  const twin = simd()
  if (twin)
    return twin.scratch(() => {
      const { kind, corners, a, b, c, reach } = figure
      const [places, ends] = [twin.take(2 * width), twin.take(2 * corners.length)]
      new Float64Array(twin.shared.buffer, places, width).set(xs)
      new Float64Array(twin.shared.buffer, ends, corners.length).set(corners)
      const [grey, distance] = [out.grey, out.distance].map((field) => (field ? twin.take(width) : 0)) as [
        number,
        number,
      ]
      const [number, count] = [FIGURES.indexOf(kind), corners.length / 2]
      for (let y = rows.from; y < rows.to; y++) {
        rows.check()
        const down = downAt(y)
        twin.assembly.shapeRow(
          places,
          down,
          width,
          cw,
          ch,
          cos,
          sin,
          number,
          ends,
          count,
          a,
          b,
          c,
          reach,
          edge,
          grey,
          distance,
        )
        if (out.grey) twin.copyOut(grey, out.grey, out.grey.planes[0]!, y, y + 1)
        if (out.distance) twin.copyOut(distance, out.distance, out.distance.planes[0]!, y, y + 1)
      }
    })
  const distanceTo = figureDistance(figure)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const start = rowStart(some, y)
    const down = downAt(y)
    for (let x = 0; x < width; x++) {
      let max = -Infinity
      for (let j = -1; j <= 1; j++)
        for (let i = -1; i <= 1; i++) {
          const px = xs[x]! - i * cw
          const py = down - j * ch
          const d = distanceTo(px * cos - py * sin, px * sin + py * cos)
          if (d > max) max = d
        }
      if (out.distance) out.distance.planes[0]![start + x] = max + 0
      if (out.grey) out.grey.planes[0]![start + x] = coverage(max, edge)
    }
  }
}
