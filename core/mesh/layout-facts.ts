import type { Layout, Spread } from './layout'
import type { Overlaps } from './overlaps'

/** How triangles of a layout lie over one another. */
export interface OverlapFacts {
  readonly overlappingPairs: number
  /** False where there are more pairs than were looked at. */
  readonly allPairs: boolean
  readonly overlappingArea: number
}

/** A layout at a size, in numbers that people and programs read. */
export interface LayoutFacts extends OverlapFacts {
  readonly islands: number
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
export const layoutFacts = (layout: Layout, width: number): LayoutFacts => ({
  ...otherFacts(layout, width),
  ...overlapFacts(layout.overlaps),
})

export const overlapFacts = ({ pairs, complete, area }: Overlaps): OverlapFacts => ({
  overlappingPairs: pairs.length / 2,
  allPairs: complete,
  overlappingArea: area,
})

/** All but overlaps, which take as long as the rest. */
export function otherFacts(layout: Layout, width: number): Omit<LayoutFacts, keyof OverlapFacts> {
  const { islands, density, stretch, spacing, tiles } = layout
  const nearest = smallest(spacing.nearest)
  return {
    islands: islands.count,
    mirroredTriangles: layout.mirrored,
    mirroredIslands: layout.mirroredIslands.length,
    collapsedTriangles: layout.collapsed,
    trianglesAcrossTiles: layout.across,
    trianglesOutside: layout.outside,
    tiles,
    usedArea: layout.usedArea / Math.max(1, tiles.length),
    texelsPerMetre: scaled(density, width),
    stretch,
    spacingTexels: nearest < spacing.reach ? nearest * width : null,
    borderTexels: smallest(spacing.toBorder) * width,
  }
}

/** Facts of a layout at a width of 1 texel, at another width. */
export function layoutFactsAt(facts: LayoutFacts, width: number): LayoutFacts {
  const { texelsPerMetre: density, spacingTexels, borderTexels } = facts
  return {
    ...facts,
    texelsPerMetre: scaled(density, width),
    spacingTexels: spacingTexels === null ? null : spacingTexels * width,
    borderTexels: borderTexels * width,
  }
}

const scaled = ({ min, max, mean, deviation }: Spread, by: number): Spread => ({
  min: min * by,
  max: max * by,
  mean: mean * by,
  deviation: deviation * by,
})

export type LayoutProblemKind = 'overlaps' | 'collapsed' | 'across' | 'outside' | 'mirrored' | 'spacing' | 'border'

/** Something that is wrong with a layout, in words. */
export interface LayoutProblem {
  readonly kind: LayoutProblemKind
  readonly words: string
}

/** Texels between islands that keep mips from bleeding: 8 at 1024, as many more as it is wider, never under 2. Common practice. */
export const neededSpacing = (width: number): number => Math.max(2, width / 128)

/** What is wrong with a layout at a width, the gravest first. `outside` repeats where tiles beyond the first repeat it. */
export function layoutProblems(
  facts: LayoutFacts,
  width: number,
  { outside = 'tiles' }: { outside?: 'tiles' | 'repeats' } = {},
): LayoutProblem[] {
  const { spacingTexels, borderTexels, allPairs } = facts
  const count = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`
  const problems: (LayoutProblem | false)[] = [
    facts.overlappingPairs > 0 && {
      kind: 'overlaps',
      words: `${allPairs ? '' : 'more than '}${count(facts.overlappingPairs, 'pair')} of triangles overlap`,
    },
    facts.collapsedTriangles > 0 && {
      kind: 'collapsed',
      words: `${count(facts.collapsedTriangles, 'triangle')} without area in UVs`,
    },
    facts.trianglesAcrossTiles > 0 && {
      kind: 'across',
      words: `${count(facts.trianglesAcrossTiles, 'triangle')} in more than one tile`,
    },
    facts.trianglesOutside > 0 &&
      outside === 'tiles' && {
        kind: 'outside',
        words: `${count(facts.trianglesOutside, 'triangle')} outside of every tile`,
      },
    facts.mirroredTriangles > 0 && {
      kind: 'mirrored',
      words: `${count(facts.mirroredTriangles, 'triangle')} mirrored`,
    },
    // What lies over another has no distance from it.
    facts.overlappingPairs === 0 &&
      spacingTexels !== null &&
      spacingTexels < neededSpacing(width) && {
        kind: 'spacing',
        words: `islands are ${spacingTexels.toFixed(1)} texels apart at ${width}; ${neededSpacing(width)} keep them from bleeding`,
      },
    borderTexels < 0.5 &&
      borderTexels >= 0 &&
      facts.islands > 1 && { kind: 'border', words: 'an island touches the border of its tile' },
  ]
  return problems.filter((one) => one !== false)
}
