import { GristError } from '../errors'
import type { Islands } from './islands'
import { findIslands } from './islands'
import type { Mesh, MeshPart } from './mesh'
import { cornersOf } from './part-vertices'
import type { Overlaps } from './overlaps'
import { findOverlaps } from './overlaps'
import type { Spacing } from './spacing'
import { islandSpacing } from './spacing'

/** Smallest, largest, mean and standard deviation, weighted by area in space. */
export interface Spread {
  readonly min: number
  readonly max: number
  readonly mean: number
  readonly deviation: number
}

/** The truth about how a part lies in a UV set. */
export interface Layout {
  readonly islands: Islands
  readonly overlaps: Overlaps
  /** Triangles that are mirrored: their UVs run the other way round. */
  readonly mirrored: number
  readonly mirroredIslands: readonly number[]
  /** Triangles without area in UVs. */
  readonly collapsed: number
  /** Triangles that lie in more than one tile. */
  readonly across: number
  /** UDIM numbers of the tiles that triangles lie in (1001 is 0–1); tiles left of 0, above it or right of 10 have none. */
  readonly tiles: readonly number[]
  /** Triangles in tiles that have no UDIM number. */
  readonly outside: number
  /** Texels a metre at a width of 1: times the width it is the density. */
  readonly density: Spread
  /** How much longer one direction is drawn than the other: 1 is none. */
  readonly stretch: Spread
  /** Area in UVs, all triangles together, in tiles. */
  readonly usedArea: number
  readonly spacing: Spacing
}

/** As far as spacing is looked for, in UV units: 128 texels of 2048. */
const REACH = 1 / 16

/**
 * Looks at how a part lies in one of its UV sets. Throws mesh-invalid where it lacks that set.
 * UDIM numbers: 1001 + column + 10 · row, rows counted upward; here v grows downward, so the row of v in 0–1 is 0, of −1–0 is 1.
 */
export function layoutOf(mesh: Mesh, part: MeshPart, set = 0): Layout {
  const uvs = set < part.uvSets ? mesh.uvSets[set] : undefined
  if (!uvs)
    throw new GristError(
      'mesh-invalid',
      `It has ${part.uvSets === 0 ? 'no UVs' : `no UV set ${set}`}. Unwrap it first.`,
      {
        part: part.name,
      },
    )
  const islands = findIslands(mesh, part, uvs)
  const corners = cornersOf(mesh, part, uvs)
  return {
    islands,
    overlaps: findOverlaps(corners),
    ...facts(mesh, part, corners, islands),
    spacing: islandSpacing(islands, REACH),
  }
}

type Facts = Omit<Layout, 'islands' | 'overlaps' | 'spacing'>

function facts(mesh: Mesh, part: MeshPart, corners: Float64Array, islands: Islands): Facts {
  const density = new Sum()
  const stretch = new Sum()
  const signed = new Float64Array(islands.count)
  const tiles = new Set<number>()
  let [mirrored, collapsed, across, outside, usedArea] = [0, 0, 0, 0, 0]
  for (let t = 0; t < part.count; t++) {
    const c = corners.subarray(t * 6, t * 6 + 6)
    const [ux, uy, vx, vy] = [c[2]! - c[0]!, c[3]! - c[1]!, c[4]! - c[0]!, c[5]! - c[1]!]
    const uvArea = (ux * vy - uy * vx) / 2
    // With v downward, what looks at us the right way round has negative area.
    if (uvArea > 0) mirrored++
    if (uvArea === 0) collapsed++
    signed[islands.of[t]!]! += uvArea
    usedArea += Math.abs(uvArea)
    const tile = tileOf(c)
    if (tile === 'across') across++
    else if (tile === null) outside++
    else tiles.add(tile)
    const edges = edgesOf(mesh, part.from + t)
    if (uvArea !== 0) {
      density.add(Math.sqrt(Math.abs(uvArea) / edges.area), edges.area)
      stretch.add(anisotropy(edges, [ux, uy, vx, vy]), edges.area)
    }
  }
  const mirroredIslands = [...signed.keys()].filter((island) => signed[island]! > 0)
  return {
    mirrored,
    mirroredIslands,
    collapsed,
    across,
    tiles: [...tiles].sort((a, b) => a - b),
    outside,
    density: density.spread(),
    stretch: stretch.spread(),
    usedArea,
  }
}

/** A mean over areas with its spread. */
class Sum {
  private weight = 0
  private first = 0
  private second = 0
  private min = Infinity
  private max = -Infinity

  add(value: number, weight: number): void {
    this.weight += weight
    this.first += value * weight
    this.second += value * value * weight
    if (value < this.min) this.min = value
    if (value > this.max) this.max = value
  }

  spread(): Spread {
    if (this.weight === 0) return { min: 0, max: 0, mean: 0, deviation: 0 }
    const mean = this.first / this.weight
    const variance = Math.max(0, this.second / this.weight - mean * mean)
    return { min: this.min, max: this.max, mean, deviation: Math.sqrt(variance) }
  }
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

/** The UDIM number of the tile that all corners lie in, edges included; "across" where none holds them, null where it has none. */
function tileOf(c: Float64Array): number | 'across' | null {
  const [u, v] = [(c[0]! + c[2]! + c[4]!) / 3, (c[1]! + c[3]! + c[5]!) / 3]
  const [column, down] = [Math.floor(u), Math.floor(v)]
  for (let k = 0; k < 6; k += 2)
    if (c[k]! < column || c[k]! > column + 1 || c[k + 1]! < down || c[k + 1]! > down + 1) return 'across'
  const row = -down
  return column >= 0 && column < 10 && row >= 0 && row < 900 ? 1001 + column + 10 * row : null
}
