import { defineNode } from '../../graph/define-node'
import { normal, vector } from '../../graph/ports'
import { straightLines } from '../../kernels/values'

/** (x, −y): vectors count downward. */
export default defineNode({
  type: 'normal-to-vector',
  version: 1,
  family: 'conversion',
  title: 'Normal to vector',
  summary: 'The sideways part of a normal.',
  keywords: [],
  params: {},
  inputs: { source: normal({ help: 'What is converted.' }) },
  outputs: { result: vector({ help: 'The converted field.' }) },
  footprint: 'point',
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (result)
      straightLines(source, result, rows, [
        [1, 0],
        [-1, 0],
      ])
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4], octaves: 2 } },
      normal: { type: 'height-to-normal', params: { strength: 4 }, inputs: { height: 'noise.grey' } },
    },
    inputs: { source: 'normal.normal' },
  },
})
