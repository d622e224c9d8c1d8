import { defineNode } from '../../graph/define-node'
import { colour, normal } from '../../graph/ports'
import { mapTexels } from '../../kernels/texels'

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
    if (result)
      mapTexels(source, result, rows, (from, to) => {
        for (let i = 0; i < 3; i++) to[i] = 2 * from[i]! - 1
        const length = Math.sqrt(to[0]! * to[0]! + to[1]! * to[1]! + to[2]! * to[2]!)
        if (length > 1e-20) for (let i = 0; i < 3; i++) to[i] = to[i]! / length
        else to.set([0, 0, 1])
      })
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      remap: { type: 'gradient-remap', inputs: { source: 'noise.grey' } },
    },
    inputs: { source: 'remap.result' },
  },
})
