import type { Islands } from './islands'

/** How near islands come to one another, and to the border of their tile. */
export interface Spacing {
  /** As far as it was looked, in UV units. */
  readonly reach: number
  /** Least distance to another island, by island, in UV units; `reach` where none is nearer. */
  readonly nearest: Float64Array
  /** Least distance to the border of its tile, by island. */
  readonly toBorder: Float64Array
}

/**
 * Exact distances between the borders of islands, as far as `reach`.
 * Units: UV. Islands that lie over one another are 0 apart only where their borders cross.
 */
export function islandSpacing({ count, borders: { points, island } }: Islands, reach: number): Spacing {
  const nearest = new Float64Array(count).fill(reach)
  const toBorder = new Float64Array(count).fill(Infinity)
  const cells = new Map<string, number[]>()
  const cell = (v: number): number => Math.floor(v / reach)
  const edges = island.length
  for (let e = 0; e < edges; e++) {
    const [ax, ay, bx, by] = points.subarray(e * 4, e * 4 + 4) as unknown as [number, number, number, number]
    // The tile is the one that the edge's middle is in.
    const [left, top] = [Math.floor((ax + bx) / 2), Math.floor((ay + by) / 2)]
    for (const [x, y] of [
      [ax, ay],
      [bx, by],
    ] as const)
      toBorder[island[e]!] = Math.min(toBorder[island[e]!]!, x - left, left + 1 - x, y - top, top + 1 - y)
    for (let y = cell(Math.min(ay, by)); y <= cell(Math.max(ay, by)); y++)
      for (let x = cell(Math.min(ax, bx)); x <= cell(Math.max(ax, bx)); x++) {
        const key = `${x} ${y}`
        const list = cells.get(key)
        if (list) list.push(e)
        else cells.set(key, [e])
      }
  }
  for (const [key, list] of cells) {
    const [x, y] = key.split(' ').map(Number) as [number, number]
    const around: number[] = []
    for (let dy = -1; dy <= 1; dy++)
      for (let dx = -1; dx <= 1; dx++) around.push(...(cells.get(`${x + dx} ${y + dy}`) ?? []))
    for (const e of list)
      for (const other of around) {
        const [one, two] = [island[e]!, island[other]!]
        if (other <= e || one === two) continue
        const d = segmentDistance(points, e * 4, other * 4)
        if (d < nearest[one]!) nearest[one] = d
        if (d < nearest[two]!) nearest[two] = d
      }
  }
  return { reach, nearest, toBorder }
}

/** Distance of two stretches; 0 where they cross. */
function segmentDistance(p: Float64Array, a: number, b: number): number {
  const side = (o: number, x: number, y: number): number =>
    (p[o + 2]! - p[o]!) * (y - p[o + 1]!) - (p[o + 3]! - p[o + 1]!) * (x - p[o]!)
  const crosses = (o: number, q: number): boolean => side(o, p[q]!, p[q + 1]!) * side(o, p[q + 2]!, p[q + 3]!) < 0
  if (crosses(a, b) && crosses(b, a)) return 0
  return Math.sqrt(
    Math.min(
      toSegment(p, a, p[b]!, p[b + 1]!),
      toSegment(p, a, p[b + 2]!, p[b + 3]!),
      toSegment(p, b, p[a]!, p[a + 1]!),
      toSegment(p, b, p[a + 2]!, p[a + 3]!),
    ),
  )
}

/** Squared distance of a point from a stretch. */
function toSegment(p: Float64Array, o: number, x: number, y: number): number {
  const [dx, dy] = [p[o + 2]! - p[o]!, p[o + 3]! - p[o + 1]!]
  const [ux, uy] = [x - p[o]!, y - p[o + 1]!]
  const length = dx * dx + dy * dy
  const t = length > 0 ? Math.min(1, Math.max(0, (ux * dx + uy * dy) / length)) : 0
  return (ux - t * dx) ** 2 + (uy - t * dy) ** 2
}
