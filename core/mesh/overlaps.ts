import { requiredSimd } from '../kernels/simd'

/** Most pairs that are tested, so that a layout in which all lies over all ends in time. */
const MAX_TESTS = 20_000_000
/** Most pairs that are told one by one; and those that are looked at closely, as they may have next to nothing in common. */
const MAX_PAIRS = 100_000
const MAX_NEAR = 4 * MAX_PAIRS
/** Overlaps smaller than this, in UV units squared, are rounding. */
const MIN_AREA = 1e-10
/** Most cells of the grid across and down, and cells that a triangle touches in the mean. */
const MAX_SIDE = 2048
const MAX_TOUCHED = 16

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
  const near = pairsNotApart(corners)
  const pairs: number[] = []
  let area = 0
  let complete = near.complete
  for (let i = 0; i < near.pairs.length; i += 2) {
    const common = commonArea(corners, near.pairs[i]!, near.pairs[i + 1]!)
    if (common <= MIN_AREA) continue
    area += common
    pairs.push(near.pairs[i]!, near.pairs[i + 1]!)
    if (pairs.length < MAX_PAIRS * 2) continue
    complete = false
    break
  }
  return { pairs: Uint32Array.from(pairs), area, complete }
}

/** Pairs that no edge of theirs tells apart, in order: by the cells of a grid that triangles touch. */
function pairsNotApart(corners: Float64Array): Pick<Overlaps, 'pairs' | 'complete'> {
  const count = corners.length / 6
  const twin = requiredSimd('Overlaps are found')
  const { assembly } = twin
  return twin.scratch(() => {
    const given = twin.take(corners.length * 2)
    new Float64Array(twin.shared.buffer, given, corners.length).set(corners)
    const [signs, boxes, box] = [twin.take(Math.ceil(count / 4)), twin.take(count * 4), twin.take(8)]
    assembly.overlapSigns(given, count, signs, box)
    const [left, top, right, bottom] = new Float64Array(twin.shared.buffer, box, 4)
    const fill = (side: number): number =>
      assembly.overlapCells(
        ...([given, count, signs, boxes, left!, top!] as const),
        ...([side / Math.max(right! - left!, 1e-30), side / Math.max(bottom! - top!, 1e-30), side] as const),
      )
    let side = Math.max(1, Math.min(MAX_SIDE, Math.ceil(Math.sqrt(count))))
    let touched = fill(side)
    while (touched > count * MAX_TOUCHED && side > 1) touched = fill((side = Math.ceil(side / 2)))
    const zeros = (length: number): number => {
      const at = twin.take(length)
      twin.ints(at, length).fill(0)
      return at
    }
    const starts = zeros(side * side + 1)
    assembly.countCells(boxes, signs, count, side, starts)
    const next = twin.take(side * side)
    twin.ints(next, side * side).set(twin.ints(starts, side * side))
    const members = twin.take(touched)
    assembly.listCells(boxes, signs, count, side, next, members)
    const out = twin.take(MAX_NEAR * 2)
    const made = assembly.overlapPairs(
      ...([given, signs, boxes, count, side, starts, members, zeros(count), zeros(side * side)] as const),
      ...([MAX_TESTS, out, MAX_NEAR] as const),
    )
    const found = made < 0 ? ~made : made
    return { pairs: Uint32Array.from(twin.ints(out, found * 2)), complete: made >= 0 }
  })
}

const doubleArea = (c: Float64Array, t: number): number => {
  const i = t * 6
  return (c[i + 2]! - c[i]!) * (c[i + 5]! - c[i + 1]!) - (c[i + 3]! - c[i + 1]!) * (c[i + 4]! - c[i]!)
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
