import { cosTurns, sinTurns } from '#core/elementary'
import type { Mesh, MeshPart } from '#core/mesh/mesh'
import { finishMesh } from '#core/mesh/mesh'

export type Point = readonly [number, number, number]
/** A surface over 0–1 × 0–1. Seen from outside, s runs to the right and t upward. */
export type Surface = (s: number, t: number) => Point

/** Step of the differences that normals are made from. */
const STEP = 1e-4

/** Puts a model together from surfaces. Each is an island of its own, laid out at its size in metres: straight, and evenly dense. */
export class Patches {
  private readonly positions: number[] = []
  private readonly normals: number[] = []
  private readonly uvs: number[] = []
  private readonly triangles: number[] = []
  private readonly parts: { name: string; material: string; from: number }[] = []
  /** Where the next island begins, so that none touches another before they are packed. */
  private across = 0

  /** With `smooth` normals are made from the triangles; else each surface has its own, and edges between surfaces are sharp. */
  constructor(private readonly smooth: boolean) {}

  /** What comes from here on belongs to this part. */
  part(name: string, material: string): void {
    this.parts.push({ name, material, from: this.triangles.length / 3 })
  }

  /**
   * A grid over a surface that is so many metres wide and high, near enough; its rows are even, or where they are given. It is laid out beside
   * the others, or where `laid` says.
   */
  grid(
    columns: number,
    given: number | readonly number[],
    surface: Surface,
    [wide, high]: readonly [number, number],
    laid: (s: number, t: number) => readonly [number, number] = (s, t) => [this.across + s * wide, (1 - t) * high],
  ): void {
    const first = this.positions.length / 3
    const stops = typeof given === 'number' ? Array.from({ length: given + 1 }, (_, r) => r / given) : given
    const rows = stops.length - 1
    for (const t of stops)
      for (let c = 0; c <= columns; c++) {
        const s = c / columns
        this.positions.push(...surface(s, t))
        this.normals.push(...(this.smooth ? ZERO : normalOf(surface, s, t)))
        this.uvs.push(...laid(s, t))
      }
    const at = (r: number, c: number): number => first + r * (columns + 1) + c
    for (let r = 0; r < rows; r++)
      for (let c = 0; c < columns; c++) {
        const corners = [at(r, c), at(r, c + 1), at(r + 1, c + 1), at(r + 1, c)] as const
        this.triangles.push(corners[0], corners[1], corners[2], corners[0], corners[2], corners[3])
      }
    this.across += wide + 1
  }

  /** A flat disc within an outline that runs around it once, seen along `right` × `up`. */
  disc(columns: number, outline: (s: number) => Point, middle: Point, right: Point, up: Point): void {
    const first = this.positions.length / 3
    const edge = Array.from({ length: columns }, (_, c) => outline(c / columns))
    const flat = (p: Point): [number, number] => [dot(minus(p, middle), right), dot(minus(p, middle), up)]
    const radius = Math.max(...edge.map((p) => Math.sqrt(flat(p)[0] ** 2 + flat(p)[1] ** 2)))
    const normal = [0, 1, 2].map((k) => right[(k + 1) % 3]! * up[(k + 2) % 3]! - right[(k + 2) % 3]! * up[(k + 1) % 3]!)
    for (const p of [middle, ...edge]) {
      const [x, y] = flat(p)
      this.positions.push(...p)
      this.normals.push(...normal)
      this.uvs.push(this.across + radius + x, radius - y)
    }
    for (let c = 0; c < columns; c++) this.triangles.push(first, first + 1 + c, first + 1 + ((c + 1) % columns))
    this.across += 2 * radius + 1
  }

  finish(): Mesh {
    const parts = this.parts.map(({ name, material, from }, i): MeshPart => {
      const end = this.parts[i + 1]?.from ?? this.triangles.length / 3
      return { name, material, from, count: end - from, uvSets: 1 }
    })
    const made = finishMesh({
      positions: Float32Array.from(this.positions),
      normals: Float32Array.from(this.normals),
      uvSets: [Float32Array.from(this.uvs)],
      colours: null,
      triangles: Uint32Array.from(this.triangles),
      parts,
      notes: [],
    })
    // At the middle of caps triangles have no area by design; nobody needs to be told.
    return { ...made, notes: [] }
  }
}

const ZERO: Point = [0, 0, 0]
const minus = (p: Point, q: Point): Point => [p[0] - q[0], p[1] - q[1], p[2] - q[2]]
const dot = (p: Point, q: Point): number => p[0] * q[0] + p[1] * q[1] + p[2] * q[2]

function normalOf(surface: Surface, s: number, t: number): Point {
  const at = (a: number, b: number): Point => surface(Math.min(1, Math.max(0, a)), Math.min(1, Math.max(0, b)))
  // Where it comes together in a point, what lies a little further in tells.
  for (const inward of [t, t + (t < 0.5 ? 20 : -20) * STEP]) {
    const [u, v] = [
      minus(at(s + STEP, inward), at(s - STEP, inward)),
      minus(at(s, inward + STEP), at(s, inward - STEP)),
    ] as [Point, Point]
    const n = [0, 1, 2].map((k) => u[(k + 1) % 3]! * v[(k + 2) % 3]! - u[(k + 2) % 3]! * v[(k + 1) % 3]!)
    const length = Math.sqrt(n[0]! ** 2 + n[1]! ** 2 + n[2]! ** 2)
    if (length > 1e-14) return [n[0]! / length, n[1]! / length, n[2]! / length]
  }
  return [0, 1, 0]
}

/** A profile turned about the Y axis: radius and height, going up on the outside and inward on top. */
export function turned(profile: (t: number) => readonly [number, number]): Surface {
  return (s, t) => {
    const [r, y] = profile(t)
    return [r * sinTurns(s), y, r * cosTurns(s)]
  }
}

/** Lays Y along Z: what stood up now faces the viewer. */
export const lying =
  (surface: Surface): Surface =>
  (s, t) => {
    const [x, y, z] = surface(s, t)
    return [x, -z, y]
  }

export const moved =
  (surface: Surface, [x, y, z]: Point): Surface =>
  (s, t) => {
    const [a, b, c] = surface(s, t)
    return [a + x, b + y, c + z]
  }

/** A flat face: a corner, the way to its right, and the way up. */
export const flat =
  (corner: Point, right: Point, up: Point): Surface =>
  (s, t) =>
    [0, 1, 2].map((k) => corner[k]! + right[k]! * s + up[k]! * t) as unknown as Point

/** A line through points, by its length from 0 to 1. */
export function along(points: readonly (readonly [number, number])[]): (t: number) => readonly [number, number] {
  const ends = [0]
  points.slice(1).forEach(([x, y], i) => {
    const [u, v] = points[i]!
    ends.push(ends[i]! + Math.sqrt((x - u) ** 2 + (y - v) ** 2))
  })
  return (t) => {
    const at = t * ends.at(-1)!
    let [low, high] = [0, points.length - 1]
    while (high - low > 1) {
      const middle = (low + high) >> 1
      if (ends[middle]! <= at) low = middle
      else high = middle
    }
    const share = ends[high]! > ends[low]! ? Math.min(1, (at - ends[low]!) / (ends[high]! - ends[low]!)) : 0
    const [[x, y], [u, v]] = [points[low]!, points[high]!]
    return [x + (u - x) * share, y + (v - y) * share]
  }
}

/**
 * The same line with its corners cut, again and again: round where it was sharp.
 * Source: G. Chaikin, "An algorithm for high speed curve generation", 1974; `cut` is the share of each edge, or a length where that is less.
 */
export function rounded(
  points: readonly (readonly [number, number])[],
  cut: number,
  times = 3,
): readonly (readonly [number, number])[] {
  let line = points
  for (let k = 0; k < times; k++) {
    const next: (readonly [number, number])[] = [line[0]!]
    for (let i = 1; i < line.length - 1; i++) {
      const [before, here, after] = [line[i - 1]!, line[i]!, line[i + 1]!]
      for (const end of [before, after]) {
        const length = Math.sqrt((end[0] - here[0]) ** 2 + (end[1] - here[1]) ** 2)
        const share = Math.min(0.25, length > 0 ? cut / 2 ** k / length : 0)
        next.push([here[0] + (end[0] - here[0]) * share, here[1] + (end[1] - here[1]) * share])
      }
    }
    line = [...next, line.at(-1)!]
  }
  return line
}

/** Where the points of a line are on it, 0–1. */
export const stopsOf = (points: readonly (readonly [number, number])[]): number[] =>
  points.map((_, i) => lengthOf(points.slice(0, i + 1)) / lengthOf(points))

/** Length of a line through points. */
export const lengthOf = (points: readonly (readonly [number, number])[]): number =>
  points.slice(1).reduce((sum, [x, y], i) => sum + Math.sqrt((x - points[i]![0]) ** 2 + (y - points[i]![1]) ** 2), 0)

/** Bumps of −1 to 1 that look like none in particular: three waves that never meet again. */
export const uneven = (x: number, y: number, z: number): number =>
  (sinTurns(x * 3.1 + z * 1.7 + 0.13) + sinTurns(y * 4.3 - x * 2.2 + 0.41) + sinTurns(z * 5.2 + y * 1.3 - x * 0.9)) / 3
