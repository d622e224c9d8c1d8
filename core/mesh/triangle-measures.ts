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
  const { positions: p, triangles } = mesh
  for (let t = 0; t < part.count; t++) {
    const i = t * 6
    const ux = corners[i + 2]! - corners[i]!
    const uy = corners[i + 3]! - corners[i + 1]!
    const vx = corners[i + 4]! - corners[i]!
    const vy = corners[i + 5]! - corners[i + 1]!
    const determinant = ux * vy - uy * vx
    const uvArea = determinant / 2
    // Dot products of two edges: first with itself, both, second with itself.
    const face = (part.from + t) * 3
    const a = triangles[face]! * 3
    const b = triangles[face + 1]! * 3
    const c = triangles[face + 2]! * 3
    let uu = 0
    let uv = 0
    let vv = 0
    for (let k = 0; k < 3; k++) {
      const u = p[b + k]! - p[a + k]!
      const v = p[c + k]! - p[a + k]!
      uu += u * u
      uv += u * v
      vv += v * v
    }
    const area = Math.sqrt(Math.max(0, uu * vv - uv * uv)) / 2
    out.uvArea[t] = uvArea
    out.area[t] = area
    out.tile[t] = tileOf(corners, i)
    if (uvArea === 0) continue
    out.density[t] = Math.sqrt(Math.abs(uvArea) / area)
    // Derivatives along u and along v are these shares of the two edges.
    const s1 = vy / determinant
    const s2 = -uy / determinant
    const t1 = -vx / determinant
    const t2 = ux / determinant
    out.stretch[t] = anisotropy(
      s1 * s1 * uu + 2 * s1 * s2 * uv + s2 * s2 * vv,
      s1 * t1 * uu + (s1 * t2 + s2 * t1) * uv + s2 * t2 * vv,
      t1 * t1 * uu + 2 * t1 * t2 * uv + t2 * t2 * vv,
    )
  }
  return out
}

/**
 * Ratio of the singular values of the map from UVs to space, of the dot products of its derivatives along u and along v.
 * Source: P. Sander, J. Snyder, S. Gortler, H. Hoppe, "Texture mapping progressive meshes", 2001, section 3.
 */
function anisotropy(a: number, b: number, c: number): number {
  const root = Math.sqrt((a - c) ** 2 + 4 * b * b)
  const min = Math.max(0, (a + c - root) / 2)
  return min > 0 ? Math.sqrt((a + c + root) / 2 / min) : Infinity
}

/** The UDIM number of the tile that all corners lie in, edges included; ACROSS where none holds them, OUTSIDE where it has none. */
function tileOf(corners: Float64Array, at: number): number {
  const u = (corners[at]! + corners[at + 2]! + corners[at + 4]!) / 3
  const v = (corners[at + 1]! + corners[at + 3]! + corners[at + 5]!) / 3
  const column = Math.floor(u)
  const down = Math.floor(v)
  for (let k = at; k < at + 6; k += 2) {
    const x = corners[k]!
    const y = corners[k + 1]!
    if (x < column || x > column + 1 || y < down || y > down + 1) return ACROSS
  }
  const row = -down
  return column >= 0 && column < 10 && row >= 0 && row < 900 ? 1001 + column + 10 * row : OUTSIDE
}
