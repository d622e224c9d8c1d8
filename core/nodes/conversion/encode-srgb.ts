import { defineNode } from '../../graph/define-node'
import { colour } from '../../graph/ports'
import { encodeSrgb } from '../../colour/srgb'
import { mapValues } from '../../kernels/point'

/** Linear to sRGB-encoded. Source: IEC 61966-2-1. */
export default defineNode({
  type: 'encode-srgb',
  version: 1,
  family: 'conversion',
  title: 'Encode sRGB',
  summary: 'Light to values as the eye sees them.',
  keywords: [],
  params: {},
  inputs: { source: colour({ help: 'What is converted.' }) },
  outputs: { result: colour({ help: 'The converted field.' }) },
  footprint: 'point',
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (result) mapValues(source, result, rows, encodeSrgb)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      remap: { type: 'gradient-remap', inputs: { source: 'noise.grey' } },
    },
    inputs: { source: 'remap.result' },
  },
})
