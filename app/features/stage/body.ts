/**
 * A body to judge materials on: a flat side and a round one, a plinth with a ledge, a groove, a step that overhangs, a hollow on
 * top. An outline is swept along a profile; both are drawn here.
 */

/** Vertices of a body: positions, normals and tile coordinates, and how far height may move each (0 at edges, else 1). */
export interface Body {
  readonly positions: Float32Array
  readonly normals: Float32Array
  readonly uvs: Float32Array
  readonly relief: Float32Array
  readonly indices: Uint32Array
}

/** Tiles that go around the body once, so that they meet. */
export const TILES_AROUND = 3
/** Half the depth of the body, and how far its flat end is from the middle of its round one. */
const HALF = 0.72
const LENGTH = 0.78
/** Radius of the upright edges of its flat end. */
const CORNER = 0.05
/** Within this distance of an edge height moves less and less. */
const FADE = 0.05

/** A place of the outline and the direction out of it there. */
interface OutlinePoint {
  readonly x: number
  readonly z: number
  readonly outX: number
  readonly outZ: number
}

const straight = LENGTH - CORNER
const PARTS = [
  // Counter-clockwise from above, from the middle of the flat end: to a corner, along the front, the round end, the back.
  { kind: 'line', from: [-LENGTH, 0], to: [-LENGTH, HALF - CORNER], out: [-1, 0] },
  { kind: 'arc', centre: [-straight, HALF - CORNER], radius: CORNER, from: Math.PI, turn: -Math.PI / 2 },
  { kind: 'line', from: [-straight, HALF], to: [0, HALF], out: [0, 1] },
  { kind: 'arc', centre: [0, 0], radius: HALF, from: Math.PI / 2, turn: -Math.PI },
  { kind: 'line', from: [0, -HALF], to: [-straight, -HALF], out: [0, -1] },
  { kind: 'arc', centre: [-straight, CORNER - HALF], radius: CORNER, from: -Math.PI / 2, turn: -Math.PI / 2 },
  { kind: 'line', from: [-LENGTH, CORNER - HALF], to: [-LENGTH, 0], out: [-1, 0] },
] as const
type Part = (typeof PARTS)[number]

const lengthOf = (part: Part): number =>
  part.kind === 'line'
    ? Math.hypot(part.to[0] - part.from[0], part.to[1] - part.from[1])
    : part.radius * Math.abs(part.turn)
const AROUND = PARTS.reduce((sum, part) => sum + lengthOf(part), 0)
/** Width of a tile on the body. */
export const TILE = AROUND / TILES_AROUND

/** The outline at a share of its length. */
function outlineAt(share: number): OutlinePoint {
  let left = Math.min(1, Math.max(0, share)) * AROUND
  for (const part of PARTS) {
    const length = lengthOf(part)
    if (left > length && part !== PARTS.at(-1)) {
      left -= length
      continue
    }
    const t = Math.min(1, left / length)
    if (part.kind === 'line') {
      const [x, z] = [0, 1].map((i) => part.from[i]! + (part.to[i]! - part.from[i]!) * t) as [number, number]
      return { x, z, outX: part.out[0], outZ: part.out[1] }
    }
    const angle = part.from + part.turn * t
    const [outX, outZ] = [Math.cos(angle), Math.sin(angle)]
    return { x: part.centre[0] + part.radius * outX, z: part.centre[1] + part.radius * outZ, outX, outZ }
  }
  throw new Error('an outline without parts')
}

/** The profile from the floor to the rim: scale of the outline, and height. Each part between two is straight, its ends are edges. */
const PROFILE: readonly (readonly [number, number])[] = [
  [0.97, -0.8],
  [1, -0.77],
  [1, -0.5],
  [0.975, -0.475],
  [0.84, -0.475],
  [0.82, -0.455],
  [0.82, -0.08],
  [0.8, -0.06],
  [0.71, -0.06],
  [0.71, 0.04],
  [0.8, 0.04],
  [0.82, 0.06],
  [0.82, 0.34],
  [0.95, 0.47],
  [0.97, 0.5],
  [0.97, 0.66],
  [0.945, 0.69],
  [0.74, 0.69],
  [0.715, 0.665],
]
/** The hollow on top: how deep it is below the last place of the profile. */
const HOLLOW = 0.2

interface Row {
  readonly scale: number
  readonly y: number
  /** The direction across the surface, out and up. */
  readonly out: number
  readonly up: number
  /** Distance from the start of the profile. */
  readonly along: number
  readonly relief: number
}

/** Rows of the body, two and more a part of its profile, at most `step` apart. */
function rowsOf(step: number): Row[][] {
  let begun = 0
  return PROFILE.slice(1).map((to, i) => {
    const from = PROFILE[i]!
    // What a scale of the outline comes to, where it is half as deep as it is wide at its middle.
    const [across, rise] = [(to[0] - from[0]) * HALF, to[1] - from[1]]
    const length = Math.hypot(across, rise)
    const count = Math.max(1, Math.ceil(length / step))
    const rows = Array.from({ length: count + 1 }, (_, k): Row => {
      const t = k / count
      const edge = Math.min(t, 1 - t) * length
      return {
        scale: from[0] + (to[0] - from[0]) * t,
        y: from[1] + rise * t,
        out: rise / length,
        up: -across / length,
        along: begun + length * t,
        relief: Math.min(1, edge / FADE),
      }
    })
    begun += length
    return rows
  })
}

/** Height of the profile in tile widths: what a tile's second coordinate runs to. */
export const TILES_UP = (() => rowsOf(1).at(-1)!.at(-1)!.along / TILE)()

/** The body, with vertices at most `step` apart along its profile and `columns` around it. */
export function makeBody(step: number, columns: number): Body {
  const positions: number[] = []
  const normals: number[] = []
  const uvs: number[] = []
  const relief: number[] = []
  const indices: number[] = []
  const outline = Array.from({ length: columns + 1 }, (_, i) => outlineAt(i / columns))
  const add = (position: number[], normal: number[], uv: number[], moves: number): number => {
    const length = Math.hypot(...normal)
    positions.push(...position)
    normals.push(...normal.map((v) => v / length))
    uvs.push(...uv)
    relief.push(moves)
    return relief.length - 1
  }
  /** Joins rows of vertices, each the first and the number of its columns. */
  const join = (below: number, above: number, count: number): void => {
    for (let i = 0; i < count; i++) {
      const [a, b, c, d] = [below + i, below + i + 1, above + i, above + i + 1]
      indices.push(a, b, d, a, d, c)
    }
  }
  const ring = (row: Row): number => {
    const first = relief.length
    outline.forEach(({ x, z, outX, outZ }, i) =>
      add(
        [x * row.scale, row.y, z * row.scale],
        [outX * row.out, row.up, outZ * row.out],
        [(i / columns) * TILES_AROUND, row.along / TILE],
        row.relief,
      ),
    )
    return first
  }
  for (const rows of rowsOf(step)) {
    const firsts = rows.map(ring)
    firsts.slice(1).forEach((above, i) => join(firsts[i]!, above, columns))
  }
  // The hollow and the floor: the outline drawn together to its middle, laid flat on the tile.
  const [scale, y] = PROFILE.at(-1)!
  const steps = Math.max(2, Math.ceil(HALF / step))
  const disc = (rim: number, level: number, depth: number, up: 1 | -1): void => {
    const firsts = Array.from({ length: steps + 1 }, (_, k) => {
      const share = 1 - k / steps
      // A bowl: level at its middle, and steep at its rim.
      const fall = depth * (1 - share * share)
      const slope = (2 * depth * share) / (rim * HALF)
      const first = relief.length
      for (const { x, z, outX, outZ } of outline) {
        const moves = Math.min(1, ((1 - share) * HALF) / FADE, (share * HALF) / FADE)
        const at = [x * rim * share, level - fall, z * rim * share]
        const normal = up > 0 ? [-outX * slope, 1, -outZ * slope] : [0, -1, 0]
        add(at, normal, [at[0]! / TILE, (-at[2]! * up) / TILE], moves)
      }
      return first
    })
    firsts.slice(1).forEach((inner, i) => {
      if (up > 0) join(firsts[i]!, inner, columns)
      else join(inner, firsts[i]!, columns)
    })
  }
  disc(scale, y, HOLLOW, 1)
  const [foot, floor] = PROFILE[0]!
  disc(foot, floor, 0, -1)
  return {
    positions: Float32Array.from(positions),
    normals: Float32Array.from(normals),
    uvs: Float32Array.from(uvs),
    relief: Float32Array.from(relief),
    indices: Uint32Array.from(indices),
  }
}

/** Where a tile coordinate (turns of the tile around and up, from the floor) is on the body's sides; null above its rim. */
export function bodyAt(
  around: number,
  up: number,
): { at: [number, number, number]; normal: [number, number, number] } | null {
  const along = up * TILE
  for (const [from, to] of rowsOf(Infinity) as [Row, Row][]) {
    if (along < from.along || along > to.along) continue
    const t = (along - from.along) / (to.along - from.along)
    const scale = from.scale + (to.scale - from.scale) * t
    const { x, z, outX, outZ } = outlineAt(around / TILES_AROUND)
    return {
      at: [x * scale, from.y + (to.y - from.y) * t, z * scale],
      normal: [outX * from.out, from.up, outZ * from.out],
    }
  }
  return null
}
