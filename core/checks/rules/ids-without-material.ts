import { idsInWords } from '../../mesh/bare-ids'
import type { CheckRule } from '../check'

const MOST = 12

/** Where no material lies, files show the nearest one. */
const idsWithoutMaterial: CheckRule = {
  name: 'ids-without-material',
  title: 'Every ID has a material',
  reference: 'Own: numbers of the part that no material is on.',
  ofSets: true,
  run: ({ set }) =>
    set!.bare.map(({ part, kind, numbers }) => ({
      severity: 'warning',
      message: `${part}: ${idsInWords(kind, numbers, MOST)} ${numbers.length === 1 ? 'has' : 'have'} no material. Files show the nearest there.`,
      value: numbers.length,
      fix: 'Put a material on them, or one on all of the part.',
    })),
  measure: ({ set }) => (set!.byIds > 0 ? `${set!.byIds} materials lie on IDs, none is left out` : null),
}
export default idsWithoutMaterial
