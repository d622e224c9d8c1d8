import { defineNode } from '../../graph/define-node'
import { colour } from '../../graph/ports'
import { srgbField } from '../../kernels/srgb'

/** Linear to sRGB-encoded. Source: IEC 61966-2-1. */
export default defineNode({
  type: 'encode-srgb',
  version: 2,
  family: 'conversion',
  title: 'Encode sRGB',
  summary: 'Light to values as the eye sees them.',
  keywords: [],
  params: {},
  inputs: { source: colour({ help: 'What is converted.' }) },
  outputs: { result: colour({ help: 'The converted field.' }) },
  footprint: 'point',
  upgrade: { 1: (params) => params },
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (result) srgbField(source, result, rows, 'encode')
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      remap: { type: 'gradient-remap', inputs: { source: 'noise.grey' } },
    },
    inputs: { source: 'remap.result' },
  },
})
