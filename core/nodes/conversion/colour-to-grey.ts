import { defineNode } from '../../graph/define-node'
import { colour, grey } from '../../graph/ports'
import { LUMINANCE } from '../../colour/srgb'
import { mapTexels } from '../../kernels/texels'

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
    if (result) {
      const [r, g, b] = LUMINANCE
      mapTexels(source, result, rows, (from, to) => {
        to[0] = r * from[0]! + g * from[1]! + b * from[2]!
      })
    }
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      remap: { type: 'gradient-remap', inputs: { source: 'noise.grey' } },
    },
    inputs: { source: 'remap.result' },
  },
})
