import { GristError } from '../errors'
import type { Islands } from './islands'
import { findIslands } from './islands'
import type { Mesh, MeshPart } from './mesh'
import { cornersOf } from './part-vertices'
import type { Overlaps } from './overlaps'
import { findOverlaps } from './overlaps'
import type { Spacing } from './spacing'
import { islandSpacing } from './spacing'
import type { TriangleMeasures } from './triangle-measures'
import { ACROSS, OUTSIDE, triangleMeasures } from './triangle-measures'

/** Smallest, largest, mean and standard deviation, weighted by area in space. */
export interface Spread {
  readonly min: number
  readonly max: number
  readonly mean: number
  readonly deviation: number
}

/** The truth about how a part lies in a UV set. */
export interface Layout {
  /** u, v of each corner, six numbers a triangle. */
  readonly corners: Float64Array
  readonly measures: TriangleMeasures
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
  const measures = triangleMeasures(mesh, part, corners)
  let overlaps: Overlaps | null = null
  let spacing: Spacing | null = null
  return {
    ...{ corners, measures, islands },
    ...facts(measures, islands),
    // These two take the most time, and who draws a layout rarely asks for them.
    get overlaps() {
      return (overlaps ??= findOverlaps(corners))
    },
    get spacing() {
      return (spacing ??= islandSpacing(islands, REACH))
    },
  }
}

type Facts = Omit<Layout, 'corners' | 'measures' | 'islands' | 'overlaps' | 'spacing'>

function facts(measures: TriangleMeasures, islands: Islands): Facts {
  const density = new Sum()
  const stretch = new Sum()
  const signed = new Float64Array(islands.count)
  const tiles = new Set<number>()
  let [mirrored, collapsed, across, outside, usedArea] = [0, 0, 0, 0, 0]
  for (let t = 0; t < islands.of.length; t++) {
    const uvArea = measures.uvArea[t]!
    // With v downward, what looks at us the right way round has negative area.
    if (uvArea > 0) mirrored++
    if (uvArea === 0) collapsed++
    signed[islands.of[t]!]! += uvArea
    usedArea += Math.abs(uvArea)
    const tile = measures.tile[t]!
    if (tile === ACROSS) across++
    else if (tile === OUTSIDE) outside++
    else tiles.add(tile)
    if (uvArea !== 0) {
      density.add(measures.density[t]!, measures.area[t]!)
      stretch.add(measures.stretch[t]!, measures.area[t]!)
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
