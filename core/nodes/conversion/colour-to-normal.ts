import { defineNode } from '../../graph/define-node'
import { colour, normal } from '../../graph/ports'
import { directionsOf } from '../../kernels/channels'

/** normalise(2 · c − 1); straight up where there is no length. */
export default defineNode({
  type: 'colour-to-normal',
  version: 1,
  family: 'conversion',
  title: 'Colour to normal',
  summary: 'Colours of a stored normal map as directions.',
  keywords: [],
  params: {},
  inputs: { source: colour({ help: 'What is converted.' }) },
  outputs: { result: normal({ help: 'The converted field.' }) },
  footprint: 'point',
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (result) directionsOf(source, result, rows)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      remap: { type: 'gradient-remap', inputs: { source: 'noise.grey' } },
    },
    inputs: { source: 'remap.result' },
  },
})
