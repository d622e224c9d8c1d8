import { defineNode } from '../../graph/define-node'
import { normal } from '../../graph/ports'
import { fillValues } from '../../kernels/point'

/** The normal of a flat surface: what lies below the lowest layer. */
export default defineNode({
  type: 'flat-normal',
  version: 1,
  family: 'conversion',
  title: 'Flat normal',
  summary: 'Straight up everywhere.',
  keywords: [],
  params: {},
  inputs: {},
  outputs: { normal: normal({ help: '(0, 0, 1).' }) },
  uniform: true,
  footprint: 'point',
  evaluate: (_, __, { normal: out }, { rows }) => {
    if (out) fillValues(out, rows, [0, 0, 1])
  },
  example: {},
})
