import type { CheckRule } from '../check'

/** Share of a tile's texels from which on missed rays are told. */
const LIMIT = 0.0005

/** Where rays from the low mesh met no high mesh, its detail is missing from the maps. */
const partMissedRays: CheckRule = {
  name: 'part-missed-rays',
  title: 'Rays met the high mesh',
  reference: 'Own: more than 0.05 % of the tile was filled from around, as told by the bake.',
  ofParts: true,
  run: ({ part }) => {
    const missed = part!.missed
    if (missed === undefined || missed < LIMIT) return []
    return [
      {
        severity: 'warning',
        message: `has ${(100 * missed).toFixed(2)} % of its tile filled in, as rays met no high mesh there.`,
        value: missed,
        fix: 'Raise the search distance or bring in a cage in the bake settings of the model, and bake the normals again.',
      },
    ]
  },
  measure: ({ part }) => (part!.missed === undefined ? null : `${(100 * part!.missed).toFixed(2)} % were filled in`),
}
export default partMissedRays
