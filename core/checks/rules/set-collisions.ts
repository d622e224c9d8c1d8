import type { CheckRule } from '../check'

/** Parts that share files and lie over one another: one shows what was made for the other. */
const setCollisions: CheckRule = {
  name: 'set-collisions',
  title: 'Parts in shared files lie apart',
  reference: 'Exact overlap of triangles of different parts in UVs (core/mesh/tile-owners.ts).',
  ofSets: true,
  run: ({ set }) =>
    set!.collisions.map(({ parts: [below, above], pairs }) => ({
      severity: 'warning',
      message: `${below} and ${above} share files and lie over one another in UVs, at ${pairs} ${pairs === 1 ? 'pair' : 'pairs'} of triangles. There the files show ${above}.`,
      value: pairs,
      fix: 'Give one of them files of its own, or move its UVs.',
    })),
  measure: ({ set }) => (set!.parts.length > 1 ? `${set!.parts.length} parts, none over another` : null),
}
export default setCollisions
