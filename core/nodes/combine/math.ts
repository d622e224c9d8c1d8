import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { any } from '../../graph/ports'
import type { Operation } from '../../kernels/arithmetic'
import { OPERATIONS } from '../../kernels/arithmetic'

const range = { min: -1e6, max: 1e6, softRange: [-1, 1] as const }

/** Plain arithmetic, value by value. Formulas: kernels/arithmetic.ts. */
export default defineNode({
  type: 'math',
  version: 1,
  family: 'combine',
  title: 'Math',
  summary: 'Plain arithmetic on one, two or three fields.',
  keywords: ['add', 'multiply', 'power', 'sine', 'floor', 'modulo', 'lerp', 'absolute', 'step'],
  params: {
    operation: choice({
      default: 'multiply',
      options: Object.keys(OPERATIONS) as Operation[],
      help: Object.entries(OPERATIONS)
        .map(([name, { formula }]) => `${name}: ${formula}`)
        .join(' · '),
    }),
    b: number({ ...range, default: 0.5, help: 'Stands in for b where nothing is connected.' }),
    c: number({ ...range, default: 1, help: 'Stands in for c where nothing is connected.' }),
  },
  inputs: {
    a: any({ help: 'The first value.' }),
    b: any({ help: 'The second value.', whenUnconnected: null }),
    c: any({ help: 'The third value.', whenUnconnected: null }),
  },
  outputs: { result: any({ help: 'What comes out.' }) },
  genericTypes: ['grey', 'colour', 'vector'],
  footprint: 'point',
  evaluate: ({ a, b, c }, params, { result }, { rows }) => {
    if (!result) return
    const { apply } = OPERATIONS[params.operation] as { apply: (a: number, b: number, c: number) => number }
    const bValue = Math.fround(params.b)
    const cValue = Math.fround(params.c)
    const at = (field: Field | null, y: number) => (field ? rowStart(field, y) : 0)
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const a0 = rowStart(a, y)
      const b0 = at(b, y)
      const c0 = at(c, y)
      const o0 = rowStart(result, y)
      for (let p = 0; p < result.planes.length; p++) {
        const av = a.planes[p]!
        const bv = b?.planes[p]
        const cv = c?.planes[p]
        const out = result.planes[p]!
        for (let x = 0; x < result.width; x++)
          out[o0 + x] = bounded(Math.fround(apply(av[a0 + x]!, bv ? bv[b0 + x]! : bValue, cv ? cv[c0 + x]! : cValue)))
      }
    }
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4], octaves: 3 } },
      ramp: { type: 'ramp', params: { shape: 'radial' } },
    },
    inputs: { a: 'noise.grey', b: 'ramp.grey' },
  },
})
