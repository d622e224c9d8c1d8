import type { Field } from '../field/field'
import { floorMod, rowStart } from '../field/field'
import { NOWHERE, nearestCrossings } from './distance-transform'
import type { Simd } from './simd'
import { simd } from './simd'
import type { Rows } from './rows'

/** Segments that a cell of the contour holds at most, and numbers a segment: its two ends, across and down. */
const SEGMENTS = 2
const NUMBERS = 4

/**
 * The line at 0 in a plane of values over a torus, as segments between the values of four neighbouring texel centres.
 * Shape: a cell (x, y) has the centres of texels (x, y) to (x + 1, y + 1) as its corners; `index` gives each cell its place in
 * `segments`, or −1; ends are in texels from the cell's first corner; a cell's second segment may be NaN.
 * Source: marching squares (Lorensen and Cline 1987 in two dimensions), saddles by the mean of the corners.
 */
interface Contour {
  readonly index: Int32Array
  readonly segments: Float64Array
}

function contourOf(values: Float32Array, width: number, height: number, check: () => void): Contour {
  const index = new Int32Array(width * height).fill(-1)
  let segments = new Float64Array(1024)
  let count = 0
  const ends = new Float64Array(8)
  for (let y = 0; y < height; y++) {
    check()
    const [here, below] = [y * width, ((y + 1) % height) * width]
    for (let x = 0; x < width; x++) {
      const next = x + 1 === width ? 0 : x + 1
      const a = values[here + x]!
      const b = values[here + next]!
      const c = values[below + next]!
      const d = values[below + x]!
      const inside = a >= 0
      if (b >= 0 === inside && c >= 0 === inside && d >= 0 === inside) continue
      // Where the line meets the cell's sides, going round: top, right, bottom, left.
      let n = 0
      const meet = (u: number, v: number): void => {
        ends[n++] = u
        ends[n++] = v
      }
      if (a >= 0 !== b >= 0) meet(a / (a - b), 0)
      if (b >= 0 !== c >= 0) meet(1, b / (b - c))
      if (d >= 0 !== c >= 0) meet(d / (d - c), 1)
      if (a >= 0 !== d >= 0) meet(0, a / (a - d))
      if ((count + 1) * SEGMENTS * NUMBERS > segments.length) {
        const larger = new Float64Array(segments.length * 2)
        larger.set(segments)
        segments = larger
      }
      const at = count * SEGMENTS * NUMBERS
      // In a saddle the middle says which corners belong together: sides 0 with 1 and 2 with 3, or 3 with 0 and 1 with 2.
      const cut = n === 8 && a + b + c + d >= 0 === inside
      const order = n === 4 ? [0, 1] : cut ? [0, 1, 2, 3] : [3, 0, 1, 2]
      segments.fill(NaN, at, at + SEGMENTS * NUMBERS)
      order.forEach((end, i) => {
        segments[at + 2 * i] = ends[2 * end]!
        segments[at + 2 * i + 1] = ends[2 * end + 1]!
      })
      index[y * width + x] = count++
    }
  }
  return { index, segments }
}

/** Crossings are looked for a little away from texel centres, so that the row they lie in is never rounded to the next. */
const AWAY = 1 / 1024

/** How far below each value of a plane its column passes 0 before the next value, 0–1; NaN where it does not. */
function crossingParts(values: Float32Array, width: number, height: number): Float32Array {
  const part = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    const [row, next] = [y * width, ((y + 1) % height) * width]
    for (let x = 0; x < width; x++) {
      const [a, b] = [values[row + x]!, values[next + x]!]
      part[row + x] = a >= 0 === b >= 0 ? NaN : Math.max(AWAY, Math.min(1 - AWAY, a / (a - b)))
    }
  }
  return part
}

function transposed(values: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(width * height)
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) out[x * height + y] = values[y * width + x]!
  return out
}

/** From which side of the line distances are taken. */
export type Side = 'outside' | 'inside'

/** A side, and the distance from which on it no longer matters how far the line is; beyond it any number from it on is given. */
export interface Wanted {
  readonly side: Side
  readonly most: number
}

/** Takes a row of distances on one side of the line. */
export type WriteRow = (side: Side, y: number, distances: Float32Array) => void

/** What of the work is to be done, and where. */
export interface ContourContext {
  readonly rows: Rows
  /** Room for CONTOUR_PLANES planes, which phases hand on to each other. */
  readonly scratch?: Field | null
  /** Which of CONTOUR_PHASES to do for the rows; absent: all of them, over all rows. */
  readonly phase?: number
}

/**
 * Distances to the line at which a grey field passes `level`: from outside what reaches it, from inside, or both. Gives
 * `context.rows` to `write` row by row, once the phases before the last are done.
 * Units: tile; 0 on the other side; where nothing passes the level, half the diagonal.
 * The line's corners lie where it crosses columns and rows of texel centres; the nearest of each is found exactly, and the
 * distance is taken to the pieces that meet there. Own derivation; within 0.15 texels of exact distances to anti-aliased
 * discs and boxes. Rejected: the nearest marked texel with the slope at it (up to 0.64 off, and 1.4 between neighbours); the
 * nearest cell of the line with those around it (up to 0.7 off along edges that lean a little).
 */
export function contourDistances(
  source: Field,
  level: number,
  wanted: readonly Wanted[],
  context: ContourContext,
  write: WriteRow,
): void {
  const { rows, phase } = context
  const twin = simd()
  const inPlace = context.scratch ? (twin?.shared.offsetOf(context.scratch.planes[0]!) ?? -1) : -1
  // Phases hand on to each other what lies in memory that all threads share.
  if (twin && (phase === undefined || inPlace >= 0))
    return twin.scratch(() => {
      const { width, height } = source
      const first = inPlace >= 0 ? inPlace : twin.take(CONTOUR_PLANES * width * height)
      const contour = new BandedContour(twin, source, level, wanted, first, rows.check)
      for (const one of phase === undefined ? [0, 1, 2, 3] : [phase])
        contour.do(one, phase === undefined ? { from: 0, to: height } : rows, write, rows)
    })
  // Without twins the first tile of the last phase does it all.
  if (phase !== undefined && (phase < CONTOUR_PHASES - 1 || rows.from > 0)) return
  const { from, to } = phase === undefined ? rows : { from: 0, to: source.height }
  for (const { side } of wanted) {
    const { width, height } = source
    const distances = contourDistance(source, level, side, rows.check)
    for (let y = from; y < to; y++) {
      const row = floorMod(y, height) * width
      write(side, y, distances.subarray(row, row + width))
    }
  }
}

/** The same for one side, all rows in one piece. Shape: width × height, row-major. */
export function contourDistance(source: Field, level: number, side: Side, check: () => void): Float32Array {
  const { width, height } = source
  const values = new Float32Array(width * height)
  for (let y = 0; y < height; y++) {
    const row = rowStart(source, y)
    for (let x = 0; x < width; x++) values[y * width + x] = source.planes[0]![row + x]! - level
  }
  const { index, segments } = contourOf(values, width, height, check)
  const columns = nearestCrossings(crossingParts(values, width, height), width, height, check)
  const turned = transposed(values, width, height)
  const rows = nearestCrossings(crossingParts(turned, height, width), height, width, check)
  const out = new Float32Array(width * height)
  const far = Math.sqrt(width * width + height * height) / 2 / width
  /** Square of the distance from the middle of a texel to what the cell at (x + dx, y + dy) holds. */
  const squareTo = (x: number, y: number, dx: number, dy: number): number => {
    const place = index[floorMod(y + dy, height) * width + floorMod(x + dx, width)]!
    if (place < 0) return Infinity
    const at = place * SEGMENTS * NUMBERS
    const first = squareToSegment(segments, at, dx, dy)
    if (segments[at + NUMBERS] !== segments[at + NUMBERS]) return first
    return Math.min(first, squareToSegment(segments, at + NUMBERS, dx, dy))
  }
  for (let y = 0; y < height; y++) {
    check()
    for (let x = 0; x < width; x++) {
      const i = y * width + x
      if (values[i]! >= 0 === (side === 'outside')) continue
      let min = Infinity
      const dx = columns.across[i]!
      if (dx !== NOWHERE) {
        const dy = Math.floor(columns.down[y * width + floorMod(x + dx, width)]!)
        min = Math.min(squareTo(x, y, dx, dy), squareTo(x, y, dx - 1, dy))
      }
      const down = rows.across[x * height + y]!
      if (down !== NOWHERE) {
        const over = Math.floor(rows.down[x * height + floorMod(y + down, height)]!)
        min = Math.min(min, squareTo(x, y, over, down), squareTo(x, y, over, down - 1))
      }
      out[i] = min === Infinity ? far : Math.sqrt(min) / width
    }
  }
  return out
}

/** Planes that the twins need as scratch memory, and phases that they do their work in. */
export const CONTOUR_PLANES = 5
export const CONTOUR_PHASES = 4

/** A little more than a cell's diagonal: what a cell of the line holds is no further from a crossing at its side. */
const DIAGONAL = 1.4143
/** Rows, or columns, that are made in one go; then somebody may cancel. */
const PIECE = 32

/**
 * The twins' work in phases: values and the same turned about; ways down each column of both; the nearest across each row of
 * both; distances. Each phase may be done for some rows, and as large a share of the columns, on any thread.
 */
class BandedContour {
  private readonly width: number
  private readonly height: number
  private readonly values: number
  private readonly turned: number
  private readonly down: number
  private readonly along: number
  private readonly across: number
  private readonly over: number
  /** The distance where there is no line, and how far crossings are looked for. */
  private readonly far: number
  private readonly reach: number

  constructor(
    private readonly twin: Simd,
    private readonly source: Field,
    private readonly level: number,
    private readonly wanted: readonly Wanted[],
    first: number,
    private readonly check: () => void,
  ) {
    const { width, height } = source
    this.width = width
    this.height = height
    const at = (plane: number): number => first + 4 * width * height * plane
    this.values = at(0)
    this.turned = at(1)
    this.down = at(2)
    this.along = at(3)
    this.across = at(4)
    this.over = this.across + 2 * width * height
    this.far = Math.sqrt(width * width + height * height) / 2 / width
    this.reach = this.reachOf(Math.max(...wanted.map(({ most }) => most)))
  }

  /** Texels to the furthest crossing that matters for distances up to `most`. */
  private reachOf(most: number): number {
    return most < this.far ? most * this.width + DIAGONAL : Infinity
  }

  do(phase: number, { from, to }: Band, write: WriteRow, rows: Band): void {
    const { width, height } = this
    const columns = { from: Math.floor((from * width) / height), to: Math.floor((to * width) / height) }
    const { twin } = this
    twin.scratch(() => {
      if (phase === 0) this.setValues({ from, to })
      else if (phase === 1) {
        this.waysDown(this.values, this.down, width, height, columns)
        this.waysDown(this.turned, this.along, height, width, { from, to })
      } else if (phase === 2) {
        this.nearest(this.down, this.across, width, { from, to })
        this.nearest(this.along, this.over, height, columns)
      } else for (const one of this.wanted) this.distances(one, rows, write)
    })
  }

  private setValues(rows: Band): void {
    const { twin, source, width, height, values, turned, level } = this
    const room = twin.take(width)
    this.pieces(rows, (from, to) => {
      for (let y = from; y < to; y++) {
        const row = twin.rowsOf(source, source.planes[0]!, y, y + 1, room)
        twin.assembly.levelled(row, values + 4 * y * width, width, level)
      }
      twin.assembly.transpose(values, turned, width, height, from, to)
    })
  }

  private waysDown(plane: number, ways: number, width: number, height: number, columns: Band): void {
    const { twin } = this
    const [part, last] = [twin.take(PIECE * height), twin.take(2 * PIECE + 8)]
    this.pieces(columns, (from, to) => twin.assembly.waysDown(plane, ways, part, last, width, height, from, to))
  }

  private nearest(ways: number, found: number, width: number, rows: Band): void {
    const { twin } = this
    const length = 2 * width + 2
    const [squares, place, begin] = [twin.take(2 * length), twin.take(length), twin.take(2 * length)]
    const margin = Math.min(width >> 1, Math.ceil(this.reach))
    const beyond = this.reach * this.reach
    this.pieces(rows, (from, to) =>
      twin.assembly.nearestAcross(ways, found, squares, place, begin, width, from, to, margin, beyond),
    )
  }

  /** `rows` may go on beyond the raster, as it wraps. */
  private distances({ side, most }: Wanted, rows: Band, write: WriteRow): void {
    const { twin, width, height, values, across, down, over, along } = this
    const result = twin.take(width)
    const reach = this.reachOf(most)
    const far = reach === Infinity ? this.far : 2 * most
    const row = twin.floats(result, width)
    this.pieces(rows, (from, to) => {
      for (let y = from; y < to; y++) {
        const at = floorMod(y, height)
        // Rows are written from the plane's own first one on.
        const target = result - 4 * at * width
        twin.assembly.contourDistances(
          values,
          across,
          down,
          over,
          along,
          target,
          width,
          height,
          at,
          at + 1,
          side === 'outside',
          reach * reach,
          far,
        )
        write(side, y, row)
      }
    })
  }

  private pieces({ from, to }: Band, work: (from: number, to: number) => void): void {
    for (let y = from; y < to; y += PIECE) {
      this.check()
      work(y, Math.min(to, y + PIECE))
    }
  }
}

type Band = Pick<Rows, 'from' | 'to'>

/** p = a + clamp(−a·(b − a) / |b − a|², 0, 1) (b − a) is the point of the segment nearest to the origin. */
function squareToSegment(segments: Float64Array, at: number, dx: number, dy: number): number {
  const ax = segments[at]! + dx
  const ay = segments[at + 1]! + dy
  const ux = segments[at + 2]! + dx - ax
  const uy = segments[at + 3]! + dy - ay
  const length = ux * ux + uy * uy
  const t = length > 0 ? Math.max(0, Math.min(1, -(ax * ux + ay * uy) / length)) : 0
  const px = ax + t * ux
  const py = ay + t * uy
  return px * px + py * py
}
