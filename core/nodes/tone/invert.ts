import { defineNode } from '../../graph/define-node'
import { choice } from '../../graph/parameters'
import { any } from '../../graph/ports'
import { remapValues } from '../../kernels/values'

/** 1 − v. */
export default defineNode({
  type: 'invert',
  version: 1,
  family: 'tone',
  title: 'Invert',
  summary: 'Dark becomes light and light dark.',
  keywords: ['negative', 'one minus', 'reverse'],
  params: {
    encoding: choice({
      default: 'srgb',
      options: ['srgb', 'linear'],
      help: 'For colours: on values as the eye sees them, or on light.',
    }),
  },
  inputs: { source: any({ help: 'What is inverted.' }) },
  outputs: { result: any({ help: '1 − source.' }) },
  genericTypes: ['grey', 'colour'],
  encoded: (params) => params.encoding === 'srgb',
  footprint: 'point',
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (result) remapValues(source, result, rows, { from: 0, width: 1, to: 1, span: -1 })
  },
  example: {
    nodes: { cells: { type: 'cells', params: { cells: [5, 5] } } },
    inputs: { source: 'cells.nearest' },
  },
})
