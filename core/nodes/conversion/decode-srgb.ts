import { defineNode } from '../../graph/define-node'
import { colour } from '../../graph/ports'
import { decodeSrgb } from '../../colour/srgb'
import { mapValues } from '../../kernels/point'

/** sRGB-encoded to linear. Source: IEC 61966-2-1. */
export default defineNode({
  type: 'decode-srgb',
  version: 1,
  family: 'conversion',
  title: 'Decode sRGB',
  summary: 'Values as the eye sees them to light.',
  keywords: [],
  params: {},
  inputs: { source: colour({ help: 'What is converted.' }) },
  outputs: { result: colour({ help: 'The converted field.' }) },
  footprint: 'point',
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (result) mapValues(source, result, rows, decodeSrgb)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      remap: { type: 'gradient-remap', inputs: { source: 'noise.grey' } },
    },
    inputs: { source: 'remap.result' },
  },
})
