import { defineNode } from '../../graph/define-node'
import { colour, grey } from '../../graph/ports'
import { greyOf } from '../../kernels/channels'

/** Luminance of linear RGB. Source: ITU-R BT.709-6, item 3.2. */
export default defineNode({
  type: 'colour-to-grey',
  version: 1,
  family: 'conversion',
  title: 'Colour to grey',
  summary: 'The luminance of a colour.',
  keywords: [],
  params: {},
  inputs: { source: colour({ help: 'What is converted.' }) },
  outputs: { result: grey({ help: 'The converted field.' }) },
  footprint: 'point',
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (result) greyOf(source, result, rows, 'luminance')
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      remap: { type: 'gradient-remap', inputs: { source: 'noise.grey' } },
    },
    inputs: { source: 'remap.result' },
  },
})
