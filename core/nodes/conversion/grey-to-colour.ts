import { defineNode } from '../../graph/define-node'
import { colour, grey } from '../../graph/ports'
import { mapTexels } from '../../kernels/texels'

/** One plane into three. */
export default defineNode({
  type: 'grey-to-colour',
  version: 1,
  family: 'conversion',
  title: 'Grey to colour',
  summary: 'The same value in red, green and blue.',
  keywords: [],
  params: {},
  inputs: { source: grey({ help: 'What is converted.' }) },
  outputs: { result: colour({ help: 'The converted field.' }) },
  footprint: 'point',
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (result) mapTexels(source, result, rows, (from, to) => to.fill(from[0]!))
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [4, 4] } } },
    inputs: { source: 'noise.grey' },
  },
})
