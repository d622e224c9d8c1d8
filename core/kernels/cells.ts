import { hashInto, unitFloat } from '../random'
import type { Rows } from './rows'
import type { Simd } from './simd'
import { simd } from './simd'

const f = Math.fround

/** In the order of their numbers in core/kernels/assembly/cells.ts. */
export const METRICS = ['euclid', 'manhattan', 'chebyshev'] as const
export type Metric = (typeof METRICS)[number]

export interface CellsShape {
  /** Lattice cells across and down, one point in each; whole, so that the field tiles. */
  readonly cells: readonly [number, number]
  /** 0 leaves points at the middle of their cells, 1 lets them go anywhere in them. */
  readonly jitter: number
  readonly metric: Metric
}

/** Planes to fill; those absent are not computed. Distances in lattice cells. */
export interface CellsOutput {
  nearest?: Float32Array
  second?: Float32Array
  gap?: Float32Array
  border?: Float32Array
  value?: Float32Array
  id?: Uint32Array
}

/** The point of a lattice cell, relative to that cell's corner. Range: 0–1 on both axes. */
export function cellPoint(seed: number, ix: number, iy: number, jitter: number): [number, number] {
  const hash = hashInto(hashInto(seed, iy), ix)
  const u = unitFloat(hash)
  const v = unitFloat(hashInto(hash, 0x2545f))
  return [f(0.5 + f(jitter * f(u - 0.5))), f(0.5 + f(jitter * f(v - 0.5)))]
}

/** The random value of a lattice cell. Range: 0 ≤ x < 1. */
export const cellValue = (seed: number, ix: number, iy: number): number =>
  unitFloat(hashInto(hashInto(hashInto(seed, 0x7a1), iy), ix))

/** Cells around a texel's own that can hold its nearest or second point, on each side. */
const RING = 2
/** Cells around that can hold the point whose bisector is nearest. */
const BORDER_RING = 3

/**
 * Distances to the points of a jittered lattice: F1, F2, F2 − F1, distance to the nearest border of the point's
 * region, and the nearest point's cell and random value.
 * Shape: planes of `width` values a row, written from `startOf(y)` on. Units: lattice cells (so unequal counts stretch
 * the pattern); for metrics other than euclid the border distance is (F2 − F1) / 2, its value along the axes.
 * Source: S. Worley, "A Cellular Texture Basis Function", SIGGRAPH 1996; exact border distance by perpendicular
 * bisectors, own derivation: |x − q| ≤ border + √2 bounds the cells to look at.
 *
 * Exact, not "nine cells": with jitter 1 the nearest point can lie two cells away. A texel first looks at its nine
 * cells, and at the outer ring only if F2 (or F1, where F2 is not asked for) could lie there. Points are hashed once
 * a lattice row, and gathered once a lattice cell and row.
 */
export function cellDistances(
  shape: CellsShape,
  seed: number,
  size: { width: number; height: number },
  rows: Rows,
  out: CellsOutput,
  startOf: (y: number) => number,
): void {
  const { width, height } = size
  const [columns, lines] = shape.cells
  const column = new Int32Array(width)
  const along = new Float32Array(width)
  for (let x = 0; x < width; x++) {
    const at = ((x + 0.5) * columns) / width
    column[x] = Math.floor(at)
    along[x] = at - column[x]!
  }
  const wantBorder = out.border !== undefined && shape.metric === 'euclid'
  const ring = wantBorder ? BORDER_RING : RING
  const needSecond = out.second !== undefined || out.gap !== undefined || out.border !== undefined
  const lattice = new Lattice(shape, seed, ring)
  const twin = simd()
  if (twin) {
    const places = { column, along, ring, needSecond }
    return twin.scratch(() => bySimd(twin, shape, seed, size, rows, out, startOf, lattice, places))
  }
  const side = 2 * ring + 1
  const px = new Float32Array(side * side)
  const py = new Float32Array(side * side)
  const inner = orderFromTheMiddle(ring)
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const row = ((y % height) + height) % height
    const atY = ((row + 0.5) * lines) / height
    const iy = Math.floor(atY)
    const fy = f(atY - iy)
    const start = startOf(y)
    lattice.keepAround(iy)
    let current = -1
    for (let x = 0; x < width; x++) {
      const ix = column[x]!
      if (ix !== current) {
        lattice.gather(ix, iy, px, py)
        current = ix
      }
      const fx = along[x]!
      let f1 = Infinity
      let f2 = Infinity
      let own = 0
      for (let k = 0; k < 25; k++) {
        if (k === 9) {
          // The outer ring begins one cell beyond the own cell's edges.
          const reach = 1 + Math.min(fx, 1 - fx, fy, 1 - fy)
          const worst = needSecond ? f2 : f1
          if (worst <= (shape.metric === 'euclid' ? reach * reach : reach)) break
        }
        const i = inner[k]!
        const d = measure(shape.metric, f(px[i]! - fx), f(py[i]! - fy))
        if (d < f1) {
          f2 = f1
          f1 = d
          own = i
        } else if (d < f2) f2 = d
      }
      const at = start + x
      const nearest = shape.metric === 'euclid' ? f(Math.sqrt(f1)) : f1
      if (needSecond) {
        const second = shape.metric === 'euclid' ? f(Math.sqrt(f2)) : f2
        if (out.second) out.second[at] = second
        if (out.gap) out.gap[at] = f(second - nearest)
        if (out.border && !wantBorder) out.border[at] = f(f(second - nearest) * 0.5)
      }
      if (out.nearest) out.nearest[at] = nearest
      if (wantBorder) out.border![at] = borderDistance(px, py, own, fx, fy)
      if (out.value || out.id) {
        const cx = wrap(ix + (own % side) - ring, columns)
        const cy = wrap(iy + Math.floor(own / side) - ring, lines)
        if (out.value) out.value[at] = cellValue(seed, cx, cy)
        if (out.id) out.id[at] = cy * columns + cx
      }
    }
  }
}

/** What the twin needs of each texel's column. */
interface Places {
  readonly column: Int32Array
  readonly along: Float32Array
  readonly ring: number
  readonly needSecond: boolean
}

function bySimd(
  twin: Simd,
  shape: CellsShape,
  seed: number,
  { width, height }: { width: number; height: number },
  rows: Rows,
  out: CellsOutput,
  startOf: (y: number) => number,
  lattice: Lattice,
  { column, along, ring, needSecond }: Places,
): void {
  const [columns, lines] = shape.cells
  const side = 2 * ring + 1
  const order = orderFromTheMiddle(ring)
  const [columnAt, alongAt, own] = [twin.take(width), twin.take(width + 4), twin.take(width + 4)]
  const [orderAt, points, table] = [twin.take(4 * side * side), twin.take(2 * side * side), twin.take(side)]
  twin.ints(columnAt, width).set(column)
  twin.floats(alongAt, width).set(along)
  const cells = [...order].flatMap((i) => {
    const line = Math.floor(i / side)
    return [i, (i % side) - ring, 4 * line, line - ring]
  })
  twin.ints(orderAt, cells.length).set(cells)
  // Lattice rows by their place from the top; a texel row needs `side` of them.
  const slots = Array.from({ length: side }, () => twin.take(2 * columns))
  const room = (plane: Float32Array | Uint32Array | undefined): number => (plane ? twin.take(width + 4) : 0)
  const { nearest, second, gap, border, value, id } = out
  const made = [nearest, second, gap, border, value, id].map((plane) => ({ plane, at: room(plane) }))
  const [n, s, g, b, v, i] = made.map(({ at }) => at) as [number, number, number, number, number, number]
  const labelled = v !== 0 || i !== 0
  const valueSeed = hashInto(seed, 0x7a1)
  let current = NaN
  for (let y = rows.from; y < rows.to; y++) {
    rows.check()
    const row = wrap(y, height)
    const atY = ((row + 0.5) * lines) / height
    const iy = Math.floor(atY)
    if (iy !== current) {
      lattice.keepAround(iy)
      slots.forEach((at, k) => twin.floats(at, 2 * columns).set(lattice.line(iy + k - ring)))
      twin.ints(table, side).set(slots)
      current = iy
    }
    twin.assembly.cellsRow(
      width,
      columns,
      columnAt,
      alongAt,
      f(atY - iy),
      table,
      ring,
      orderAt,
      points,
      METRICS.indexOf(shape.metric),
      needSecond,
      n,
      s,
      g,
      b,
      labelled ? own : 0,
    )
    if (labelled) twin.assembly.cellLabels(width, columnAt, own, ring, iy, columns, lines, valueSeed, v, i)
    const start = startOf(y)
    for (const { plane, at } of made)
      if (plane instanceof Float32Array) plane.set(twin.floats(at, width), start)
      else plane?.set(twin.ints(at, width), start)
  }
}

/** Squared for euclid, plain otherwise. */
function measure(metric: Metric, dx: number, dy: number): number {
  if (metric === 'euclid') return f(f(dx * dx) + f(dy * dy))
  const ax = dx < 0 ? -dx : dx
  const ay = dy < 0 ? -dy : dy
  return metric === 'manhattan' ? f(ax + ay) : ax > ay ? ax : ay
}

/** min over points q ≠ p of ((p + q)/2 − x) · (q − p)/|q − p|, with p the nearest point to x. */
function borderDistance(px: Float32Array, py: Float32Array, own: number, fx: number, fy: number): number {
  const x0 = px[own]!
  const y0 = py[own]!
  const ax = f(fx - x0)
  const ay = f(fy - y0)
  let best = Infinity
  for (let i = 0; i < px.length; i++) {
    if (i === own) continue
    const dx = f(px[i]! - x0)
    const dy = f(py[i]! - y0)
    const square = f(f(dx * dx) + f(dy * dy))
    if (square === 0) return 0
    const dot = f(f(ax * dx) + f(ay * dy))
    const d = f(f(f(0.5 * square) - dot) / f(Math.sqrt(square)))
    if (d < best) best = d
  }
  return best > 0 ? best : 0
}

/** Points of lattice rows, hashed once each while rows of texels pass by. */
class Lattice {
  /** By lattice row, 2 · columns numbers: the points within their cells, across and then down. */
  private readonly lines = new Map<number, Float32Array>()

  constructor(
    private readonly shape: CellsShape,
    private readonly seed: number,
    private readonly ring: number,
  ) {}

  /** The points of the cells around one, each relative to its corner. */
  gather(ix: number, iy: number, px: Float32Array, py: Float32Array): void {
    const { ring } = this
    const [columns] = this.shape.cells
    let i = 0
    for (let dy = -ring; dy <= ring; dy++) {
      const line = this.line(iy + dy)
      for (let dx = -ring; dx <= ring; dx++) {
        const column = wrap(ix + dx, columns)
        px[i] = f(line[column]! + dx)
        py[i] = f(line[columns + column]! + dy)
        i++
      }
    }
  }

  /** Forgets rows that no texel of lattice row `iy` reads. */
  keepAround(iy: number): void {
    const lines = this.shape.cells[1]
    if (lines <= 2 * this.ring + 1) return
    for (const known of this.lines.keys())
      if (wrap(known - iy + this.ring, lines) > 2 * this.ring) this.lines.delete(known)
  }

  line(unwrapped: number): Float32Array {
    const { cells, jitter } = this.shape
    const [columns, lines] = cells
    const iy = wrap(unwrapped, lines)
    let line = this.lines.get(iy)
    if (!line) {
      line = new Float32Array(2 * columns)
      for (let ix = 0; ix < columns; ix++) {
        const [x, y] = cellPoint(this.seed, ix, iy, jitter)
        line[ix] = x
        line[columns + ix] = y
      }
      this.lines.set(iy, line)
    }
    return line
  }
}

/** Indices of the cells around the middle: the inner nine first, then the next sixteen, then those beyond. */
function orderFromTheMiddle(ring: number): Int32Array {
  const side = 2 * ring + 1
  const far = (i: number): number => {
    const away = Math.max(Math.abs((i % side) - ring), Math.abs(Math.floor(i / side) - ring))
    return away > 1 ? away : 0
  }
  return Int32Array.from({ length: side * side }, (_, i) => i).sort((a, b) => far(a) - far(b) || a - b)
}

const wrap = (i: number, n: number): number => ((i % n) + n) % n
