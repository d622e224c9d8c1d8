/** Most pairs that are tested, so that a layout in which all lies over all ends in time. */
const MAX_TESTS = 20_000_000
/** Most pairs that are told one by one. */
const MAX_PAIRS = 100_000
/** Overlaps smaller than this, in UV units squared, are rounding. */
const MIN_AREA = 1e-10

export interface Overlaps {
  /** Pairs of triangles, two numbers each. */
  readonly pairs: Uint32Array
  /** What they have in common, summed, in UV units squared. */
  readonly area: number
  /** False where there are more than were looked at. */
  readonly complete: boolean
}

/**
 * Pairs of triangles that lie over one another in UV space: their insides have points in common. Neighbours, which share an edge or
 * a corner, do not.
 * Shape: `corners` six numbers a triangle (u, v of each corner), as float64 of float32. Triangles without area are passed by.
 * Source: separating axes; what two have in common is cut by I. Sutherland, G. Hodgman, "Reentrant polygon clipping", 1974.
 */
export function findOverlaps(corners: Float64Array): Overlaps {
  const count = corners.length / 6
  const grid = new Grid(corners)
  const pairs: number[] = []
  let area = 0
  let tests = 0
  let complete = true
  const seen = new Uint32Array(count)
  for (let t = 0; t < count && complete; t++) {
    if (!grid.has(t)) continue
    grid.each(t, (other) => {
      // Each pair once, however many cells it shares.
      if (other <= t || seen[other] === t + 1) return true
      seen[other] = t + 1
      if (++tests > MAX_TESTS) return (complete = false)
      if (isApart(corners, t, other) || isApart(corners, other, t)) return true
      const common = commonArea(corners, t, other)
      if (common <= MIN_AREA) return true
      area += common
      pairs.push(t, other)
      return (complete = pairs.length < MAX_PAIRS * 2)
    })
  }
  return { pairs: Uint32Array.from(pairs), area, complete }
}

const doubleArea = (c: Float64Array, t: number): number => {
  const i = t * 6
  return (c[i + 2]! - c[i]!) * (c[i + 5]! - c[i + 1]!) - (c[i + 3]! - c[i + 1]!) * (c[i + 4]! - c[i]!)
}

/** Whether an edge of `t` has all of `other` on its outer side, or on its line. */
function isApart(c: Float64Array, t: number, other: number): boolean {
  const sign = doubleArea(c, t) < 0 ? -1 : 1
  const i = t * 6
  const j = other * 6
  for (let e = 0; e < 6; e += 2) {
    const ax = c[i + e]!
    const ay = c[i + e + 1]!
    const next = e === 4 ? i : i + e + 2
    const dx = (c[next]! - ax) * sign
    const dy = (c[next + 1]! - ay) * sign
    if (
      dx * (c[j + 1]! - ay) - dy * (c[j]! - ax) <= 0 &&
      dx * (c[j + 3]! - ay) - dy * (c[j + 2]! - ax) <= 0 &&
      dx * (c[j + 5]! - ay) - dy * (c[j + 4]! - ax) <= 0
    )
      return true
  }
  return false
}

/** Area that two triangles have in common. */
function commonArea(c: Float64Array, t: number, other: number): number {
  const sign = doubleArea(c, t) < 0 ? -1 : 1
  let polygon = [...c.subarray(other * 6, other * 6 + 6)]
  for (let e = 0; e < 6 && polygon.length > 0; e += 2) {
    const [ax, ay] = [c[t * 6 + e]!, c[t * 6 + e + 1]!]
    const next = (e + 2) % 6
    const [dx, dy] = [(c[t * 6 + next]! - ax) * sign, (c[t * 6 + next + 1]! - ay) * sign]
    const side = (x: number, y: number): number => dx * (y - ay) - dy * (x - ax)
    const kept: number[] = []
    for (let k = 0; k < polygon.length; k += 2) {
      const [x, y] = [polygon[k]!, polygon[k + 1]!]
      const after = (k + 2) % polygon.length
      const [u, v] = [polygon[after]!, polygon[after + 1]!]
      const [here, there] = [side(x, y), side(u, v)]
      if (here >= 0) kept.push(x, y)
      if (here > 0 !== there > 0 && here !== there) {
        const s = here / (here - there)
        if (s > 0 && s < 1) kept.push(x + (u - x) * s, y + (v - y) * s)
      }
    }
    polygon = kept
  }
  let sum = 0
  for (let k = 0; k < polygon.length; k += 2) {
    const next = (k + 2) % polygon.length
    sum += polygon[k]! * polygon[next + 1]! - polygon[k + 1]! * polygon[next]!
  }
  return Math.abs(sum) / 2
}

/** The cell of a side's `side` that a place lies in, the border's beyond it. */
const cell = (v: number, from: number, scale: number, side: number): number =>
  Math.min(side - 1, Math.max(0, Math.floor((v - from) * scale)))

/** Triangles by the cells of a grid that their boxes touch. */
class Grid {
  private readonly side: number
  private readonly starts: Uint32Array
  private readonly members: Uint32Array
  private readonly boxes: Uint32Array
  private readonly valid: Uint8Array

  constructor(corners: Float64Array) {
    const count = corners.length / 6
    this.valid = new Uint8Array(count)
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
    for (let t = 0; t < count; t++) {
      this.valid[t] = doubleArea(corners, t) === 0 ? 0 : 1
      if (!this.valid[t]) continue
      for (let k = 0; k < 6; k += 2) {
        const [u, v] = [corners[t * 6 + k]!, corners[t * 6 + k + 1]!]
        if (u < left) left = u
        if (u > right) right = u
        if (v < top) top = v
        if (v > bottom) bottom = v
      }
    }
    const boxes = (this.boxes = new Uint32Array(count * 4))
    const fill = (side: number): number => {
      const across = side / Math.max(right - left, 1e-30)
      const down = side / Math.max(bottom - top, 1e-30)
      let total = 0
      for (let t = 0; t < count; t++) {
        if (!this.valid[t]) continue
        const i = t * 6
        const [a, b, c] = [corners[i]!, corners[i + 2]!, corners[i + 4]!]
        const [p, q, r] = [corners[i + 1]!, corners[i + 3]!, corners[i + 5]!]
        const x0 = (boxes[t * 4] = cell(Math.min(a, b, c), left, across, side))
        const y0 = (boxes[t * 4 + 1] = cell(Math.min(p, q, r), top, down, side))
        const x1 = (boxes[t * 4 + 2] = cell(Math.max(a, b, c), left, across, side))
        const y1 = (boxes[t * 4 + 3] = cell(Math.max(p, q, r), top, down, side))
        total += (x1 - x0 + 1) * (y1 - y0 + 1)
      }
      return total
    }
    let side = Math.max(1, Math.min(2048, Math.ceil(Math.sqrt(count))))
    while (fill(side) > count * 16 && side > 1) side = Math.ceil(side / 2)
    this.side = side
    this.starts = new Uint32Array(side * side + 1)
    this.forEach(count, (cell) => this.starts[cell + 1]!++)
    for (let i = 0; i < side * side; i++) this.starts[i + 1]! += this.starts[i]!
    this.members = new Uint32Array(this.starts[side * side]!)
    const next = this.starts.slice()
    this.forEach(count, (cell, t) => (this.members[next[cell]!++] = t))
  }

  has(t: number): boolean {
    return this.valid[t] === 1
  }

  /** All that share a cell with a triangle, until `visit` gives false. */
  each(t: number, visit: (other: number) => boolean): void {
    const { boxes, side, starts, members } = this
    for (let y = boxes[t * 4 + 1]!; y <= boxes[t * 4 + 3]!; y++)
      for (let x = boxes[t * 4]!; x <= boxes[t * 4 + 2]!; x++) {
        const cell = y * side + x
        for (let i = starts[cell]!; i < starts[cell + 1]!; i++) if (!visit(members[i]!)) return
      }
  }

  private forEach(count: number, visit: (cell: number, t: number) => void): void {
    const { boxes, side } = this
    for (let t = 0; t < count; t++) {
      if (!this.valid[t]) continue
      for (let y = boxes[t * 4 + 1]!; y <= boxes[t * 4 + 3]!; y++)
        for (let x = boxes[t * 4]!; x <= boxes[t * 4 + 2]!; x++) visit(y * side + x, t)
    }
  }
}
