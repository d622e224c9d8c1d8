import { defineNode } from '../../graph/define-node'
import { colour, normal } from '../../graph/ports'
import { straightLines } from '../../kernels/values'

/** n · 0.5 + 0.5. */
export default defineNode({
  type: 'normal-to-colour',
  version: 1,
  family: 'conversion',
  title: 'Normal to colour',
  summary: 'A normal as files store it.',
  keywords: [],
  params: {},
  inputs: { source: normal({ help: 'What is converted.' }) },
  outputs: { result: colour({ help: 'The converted field.' }) },
  footprint: 'point',
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (result)
      straightLines(source, result, rows, [
        [0.5, 0.5],
        [0.5, 0.5],
        [0.5, 0.5],
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
