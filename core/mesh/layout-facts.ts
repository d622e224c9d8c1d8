import type { Layout, Spread } from './layout'

/** A layout at a size, in numbers that people and programs read. */
export interface LayoutFacts {
  readonly islands: number
  readonly overlappingPairs: number
  /** False where there are more pairs than were looked at. */
  readonly allPairs: boolean
  readonly overlappingArea: number
  readonly mirroredTriangles: number
  readonly mirroredIslands: number
  readonly collapsedTriangles: number
  readonly trianglesAcrossTiles: number
  readonly trianglesOutside: number
  readonly tiles: readonly number[]
  /** 0–1 of the tiles that are used, all triangles together. */
  readonly usedArea: number
  readonly texelsPerMetre: Spread
  readonly stretch: Spread
  /** Least distance between islands, and to the border of a tile, in texels; null where it is farther than was looked. */
  readonly spacingTexels: number | null
  readonly borderTexels: number
}

/** There may be more islands than a call takes arguments. */
const smallest = (values: Float64Array): number => values.reduce((min, v) => (v < min ? v : min), Infinity)

/** What a layout comes to at a width in texels. */
export function layoutFacts(layout: Layout, width: number): LayoutFacts {
  const { islands, overlaps, density, stretch, spacing, tiles } = layout
  const nearest = smallest(spacing.nearest)
  const scaled = (by: number, { min, max, mean, deviation }: Spread): Spread => ({
    min: min * by,
    max: max * by,
    mean: mean * by,
    deviation: deviation * by,
  })
  return {
    islands: islands.count,
    overlappingPairs: overlaps.pairs.length / 2,
    allPairs: overlaps.complete,
    overlappingArea: overlaps.area,
    mirroredTriangles: layout.mirrored,
    mirroredIslands: layout.mirroredIslands.length,
    collapsedTriangles: layout.collapsed,
    trianglesAcrossTiles: layout.across,
    trianglesOutside: layout.outside,
    tiles,
    usedArea: layout.usedArea / Math.max(1, tiles.length),
    texelsPerMetre: scaled(width, density),
    stretch,
    spacingTexels: nearest < spacing.reach ? nearest * width : null,
    borderTexels: smallest(spacing.toBorder) * width,
  }
}

/** What is wrong with it, in words; the gravest first. */
export function layoutProblems(facts: LayoutFacts): string[] {
  const { spacingTexels, allPairs } = facts
  const count = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`
  return [
    ...(facts.overlappingPairs > 0
      ? [`${allPairs ? '' : 'more than '}${count(facts.overlappingPairs, 'pair')} of triangles lie over one another`]
      : []),
    ...(facts.collapsedTriangles > 0 ? [`${count(facts.collapsedTriangles, 'triangle')} without area in UVs`] : []),
    ...(facts.trianglesAcrossTiles > 0
      ? [`${count(facts.trianglesAcrossTiles, 'triangle')} in more than one tile`]
      : []),
    ...(facts.trianglesOutside > 0 ? [`${count(facts.trianglesOutside, 'triangle')} outside of every tile`] : []),
    ...(facts.mirroredTriangles > 0 ? [`${count(facts.mirroredTriangles, 'triangle')} mirrored`] : []),
    ...(spacingTexels !== null && spacingTexels < 2
      ? [`islands are ${spacingTexels.toFixed(1)} texels apart; 2 or more keep them from bleeding`]
      : []),
    ...(facts.borderTexels < 0.5 && facts.borderTexels >= 0 && facts.islands > 1
      ? ['an island touches the border of its tile']
      : []),
  ]
}
