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
  const { boxes, side, starts, members, signs } = new Grid(corners)
  const pairs: number[] = []
  let area = 0
  let tests = 0
  let complete = true
  const seen = new Uint32Array(count)
  /** Of each cell how many of its triangles had their turn: they come in order. */
  const passed = new Uint32Array(side * side)
  for (let t = 0; t < count && complete; t++) {
    if (signs[t] === 0) continue
    const [left, top, right, bottom] = [boxes[t * 4]!, boxes[t * 4 + 1]!, boxes[t * 4 + 2]!, boxes[t * 4 + 3]!]
    for (let y = top; y <= bottom && complete; y++)
      for (let x = left; x <= right && complete; x++) {
        const cell = y * side + x
        const end = starts[cell + 1]!
        for (let i = starts[cell]! + ++passed[cell]!; i < end; i++) {
          const other = members[i]!
          // Each pair once, however many cells it shares.
          if (seen[other] === t + 1) continue
          seen[other] = t + 1
          if (++tests > MAX_TESTS) complete = false
          if (!complete) break
          if (isApart(corners, signs[t]!, t, other) || isApart(corners, signs[other]!, other, t)) continue
          const common = commonArea(corners, t, other)
          if (common <= MIN_AREA) continue
          area += common
          pairs.push(t, other)
          complete = pairs.length < MAX_PAIRS * 2
          if (!complete) break
        }
      }
  }
  return { pairs: Uint32Array.from(pairs), area, complete }
}

const doubleArea = (c: Float64Array, t: number): number => {
  const i = t * 6
  return (c[i + 2]! - c[i]!) * (c[i + 5]! - c[i + 1]!) - (c[i + 3]! - c[i + 1]!) * (c[i + 4]! - c[i]!)
}

/** Whether an edge of `t` has all of `other` on its outer side, or on its line; `sign` is that of its area. */
function isApart(c: Float64Array, sign: number, t: number, other: number): boolean {
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
  readonly side: number
  /** Of each cell where its triangles begin among `members`, in order of their numbers. */
  readonly starts: Uint32Array
  readonly members: Uint32Array
  /** Of each triangle the first and the last cell across and down: left, top, right, bottom. */
  readonly boxes: Uint32Array
  /** Of each triangle's area; those without any are in no cell. */
  readonly signs: Int8Array

  constructor(corners: Float64Array) {
    const count = corners.length / 6
    const signs = (this.signs = new Int8Array(count))
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
    for (let t = 0; t < count; t++) {
      signs[t] = Math.sign(doubleArea(corners, t))
      if (signs[t] === 0) continue
      for (let k = 0; k < 6; k += 2) {
        const u = corners[t * 6 + k]!
        const v = corners[t * 6 + k + 1]!
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
        if (signs[t] === 0) continue
        const i = t * 6
        const a = corners[i]!
        const b = corners[i + 2]!
        const c = corners[i + 4]!
        const p = corners[i + 1]!
        const q = corners[i + 3]!
        const r = corners[i + 5]!
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

  private forEach(count: number, visit: (cell: number, t: number) => void): void {
    const { boxes, side } = this
    for (let t = 0; t < count; t++) {
      if (this.signs[t] === 0) continue
      for (let y = boxes[t * 4 + 1]!; y <= boxes[t * 4 + 3]!; y++)
        for (let x = boxes[t * 4]!; x <= boxes[t * 4 + 2]!; x++) visit(y * side + x, t)
    }
  }
}
