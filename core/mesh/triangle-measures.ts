import type { Mesh, MeshPart } from './mesh'

/** In place of a tile's number: that of a triangle in more than one tile, and of one in a tile that has none. */
export const ACROSS = -1
export const OUTSIDE = 0

/** How each triangle of a part lies in UVs. */
export interface TriangleMeasures {
  /** Signed, in UV units squared, v downward: positive where it is mirrored, 0 where it has no area. */
  readonly uvArea: Float64Array
  /** In space, m². */
  readonly area: Float64Array
  /** UV units a metre: times the width, texels a metre; 0 where it has no area in UVs. */
  readonly density: Float64Array
  /** How much longer one direction is drawn than the other: 1 is none; 0 where it has no area in UVs. */
  readonly stretch: Float64Array
  /** UDIM number of its tile, ACROSS or OUTSIDE. */
  readonly tile: Int32Array
}

/** Measures triangles. Shape: `corners` six numbers a triangle, as cornersOf gives them. */
export function triangleMeasures(mesh: Mesh, part: MeshPart, corners: Float64Array): TriangleMeasures {
  const numbers = (): Float64Array => new Float64Array(part.count)
  const out = {
    uvArea: numbers(),
    area: numbers(),
    density: numbers(),
    stretch: numbers(),
    tile: new Int32Array(part.count),
  }
  for (let t = 0; t < part.count; t++) {
    const c = corners.subarray(t * 6, t * 6 + 6)
    const [ux, uy, vx, vy] = [c[2]! - c[0]!, c[3]! - c[1]!, c[4]! - c[0]!, c[5]! - c[1]!]
    const uvArea = (ux * vy - uy * vx) / 2
    const edges = edgesOf(mesh, part.from + t)
    out.uvArea[t] = uvArea
    out.area[t] = edges.area
    out.tile[t] = tileOf(c)
    if (uvArea === 0) continue
    out.density[t] = Math.sqrt(Math.abs(uvArea) / edges.area)
    out.stretch[t] = anisotropy(edges, [ux, uy, vx, vy])
  }
  return out
}

interface Edges {
  readonly area: number
  /** Dot products of two edges: first with itself, both, second with itself. */
  readonly gram: readonly [number, number, number]
}

function edgesOf({ positions: p, triangles }: Mesh, t: number): Edges {
  const [a, b, c] = [triangles[t * 3]! * 3, triangles[t * 3 + 1]! * 3, triangles[t * 3 + 2]! * 3]
  let [uu, uv, vv] = [0, 0, 0]
  for (let k = 0; k < 3; k++) {
    const [u, v] = [p[b + k]! - p[a + k]!, p[c + k]! - p[a + k]!]
    uu += u * u
    uv += u * v
    vv += v * v
  }
  return { area: Math.sqrt(Math.max(0, uu * vv - uv * uv)) / 2, gram: [uu, uv, vv] }
}

/**
 * Ratio of the singular values of the map from UVs to space.
 * Source: P. Sander, J. Snyder, S. Gortler, H. Hoppe, "Texture mapping progressive meshes", 2001, section 3.
 */
function anisotropy(
  { gram: [uu, uv, vv] }: Edges,
  [ux, uy, vx, vy]: readonly [number, number, number, number],
): number {
  const determinant = ux * vy - uy * vx
  // Derivatives along u and along v are these shares of the two edges.
  const [s1, s2] = [vy / determinant, -uy / determinant]
  const [t1, t2] = [-vx / determinant, ux / determinant]
  const a = s1 * s1 * uu + 2 * s1 * s2 * uv + s2 * s2 * vv
  const b = s1 * t1 * uu + (s1 * t2 + s2 * t1) * uv + s2 * t2 * vv
  const c = t1 * t1 * uu + 2 * t1 * t2 * uv + t2 * t2 * vv
  const root = Math.sqrt((a - c) ** 2 + 4 * b * b)
  const min = Math.max(0, (a + c - root) / 2)
  return min > 0 ? Math.sqrt((a + c + root) / 2 / min) : Infinity
}

/** The UDIM number of the tile that all corners lie in, edges included; ACROSS where none holds them, OUTSIDE where it has none. */
function tileOf(c: Float64Array): number {
  const [u, v] = [(c[0]! + c[2]! + c[4]!) / 3, (c[1]! + c[3]! + c[5]!) / 3]
  const [column, down] = [Math.floor(u), Math.floor(v)]
  for (let k = 0; k < 6; k += 2)
    if (c[k]! < column || c[k]! > column + 1 || c[k + 1]! < down || c[k + 1]! > down + 1) return ACROSS
  const row = -down
  return column >= 0 && column < 10 && row >= 0 && row < 900 ? 1001 + column + 10 * row : OUTSIDE
}
