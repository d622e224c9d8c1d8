import { hexToLinear } from '../../colour/srgb'
import { defineNode } from '../../graph/define-node'
import { colourParameter, number } from '../../graph/parameters'
import { colour, grey } from '../../graph/ports'
import { fillValues } from '../../kernels/point'

/** One value everywhere. */
export default defineNode({
  type: 'constant',
  version: 1,
  family: 'make',
  title: 'Constant',
  summary: 'One value or one colour everywhere.',
  keywords: ['flat', 'plain', 'solid', 'value', 'fill'],
  params: {
    value: number({ default: 0.5, min: -1e6, max: 1e6, softRange: [0, 1], help: 'The grey value.' }),
    colour: colourParameter({ default: '#808080', help: 'The colour.' }),
  },
  inputs: {},
  outputs: { grey: grey({ help: 'The value.' }), colour: colour({ help: 'The colour.' }) },
  uniform: true,
  footprint: 'point',
  evaluate: (_, params, out, { rows }) => {
    if (out.grey) fillValues(out.grey, rows, [params.value])
    if (out.colour) fillValues(out.colour, rows, hexToLinear(params.colour))
  },
  example: { params: { value: 0.4, colour: '#b4690e' } },
})
