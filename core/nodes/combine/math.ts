import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { any } from '../../graph/ports'
import type { Operation } from '../../kernels/arithmetic'
import { OPERATIONS, computeFields } from '../../kernels/arithmetic'

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
    computeFields(params.operation, a, b ?? params.b, c ?? params.c, result, rows)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4], octaves: 3 } },
      ramp: { type: 'ramp', params: { shape: 'radial' } },
    },
    inputs: { a: 'noise.grey', b: 'ramp.grey' },
  },
})
