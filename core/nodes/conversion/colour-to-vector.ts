import { defineNode } from '../../graph/define-node'
import { colour, vector } from '../../graph/ports'
import { straightLines } from '../../kernels/values'

/** v = 2 · (red, green) − 1, as normals are stored in files. */
export default defineNode({
  type: 'colour-to-vector',
  version: 1,
  family: 'conversion',
  title: 'Colour to vector',
  summary: 'Red and green as a direction; mid-grey stands still.',
  keywords: [],
  params: {},
  inputs: { source: colour({ help: 'What is converted.' }) },
  outputs: { result: vector({ help: 'The converted field.' }) },
  footprint: 'point',
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (result)
      straightLines(source, result, rows, [
        [2, -1],
        [-2, 1],
      ])
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      remap: { type: 'gradient-remap', inputs: { source: 'noise.grey' } },
    },
    inputs: { source: 'remap.result' },
  },
})
