import type { CheckRule } from '../check'

/** Triangles that lie over each other in UVs get one another's wear and dirt. */
const partOverlaps: CheckRule = {
  name: 'part-overlaps',
  title: 'UVs lie apart',
  reference: 'Exact overlap of triangles in UVs (core/mesh/overlaps.ts).',
  ofParts: true,
  run: ({ part }) => {
    const { overlappingPairs, overlappingArea, trianglesOutside, allPairs } = part!.layout.facts
    const found: ReturnType<CheckRule['run']> = []
    if (overlappingPairs > 0)
      found.push({
        severity: 'error',
        message: `${allPairs ? '' : 'more than '}${overlappingPairs} pairs of triangles overlap in UVs, ${(100 * overlappingArea).toFixed(1)} % of the tile.`,
        value: overlappingPairs,
        fix: 'Shift the copies by a whole tile, or repack, in “Before you bake” of the model.',
      })
    if (trianglesOutside > 0)
      found.push({
        severity: 'warning',
        message: `${trianglesOutside} triangles lie outside of every tile: they show the first tile again.`,
        value: trianglesOutside,
        fix: 'Repack the UVs in “Before you bake” of the model, unless the repeat is meant.',
      })
    return found
  },
  measure: ({ part }) => `${part!.layout.facts.islands} islands, none over another`,
}
export default partOverlaps
