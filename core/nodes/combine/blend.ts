import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { grey, any } from '../../graph/ports'
import { BLEND_MODES } from '../../kernels/blend'
import { blendFields } from '../../kernels/blend-fields'

/** One field over another. Source: W3C Compositing and Blending Level 1; the added modes are in kernels/blend.ts. */
export default defineNode({
  type: 'blend',
  version: 1,
  family: 'combine',
  title: 'Blend',
  summary: 'Lays one field over another by a mode.',
  keywords: ['mix', 'layer', 'multiply', 'screen', 'overlay', 'add', 'subtract', 'compose'],
  usualFor: ['grey', 'colour'],
  params: {
    mode: choice({ default: 'normal', options: BLEND_MODES, help: 'How the two are combined.' }),
    amount: number({ default: 1, min: 0, max: 1, help: 'How much of the result shows.' }),
    encoding: choice({
      default: 'srgb',
      options: ['srgb', 'linear'],
      help: 'For colours: on values as the eye sees them, or on light. Grey is always taken as it is.',
    }),
  },
  inputs: {
    base: any({ help: 'What lies below.', whenUnconnected: 0.5 }),
    source: any({ help: 'What is laid over it.' }),
    mask: grey({ help: 'Where it shows: 0 nowhere, 1 fully.', whenUnconnected: null }),
  },
  outputs: { result: any({ help: 'Both together.' }) },
  genericTypes: ['grey', 'colour'],
  encoded: (params) => params.encoding === 'srgb',
  footprint: 'point',
  evaluate: ({ base, source, mask }, { mode, amount }, { result }, { rows }) => {
    if (result) blendFields(base, source, mask, result, rows, mode, Math.fround(amount))
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [5, 5] } },
      cells: { type: 'cells', params: { cells: [6, 6] } },
    },
    inputs: { base: 'noise.grey', source: 'cells.nearest' },
    params: { mode: 'overlay', amount: 0.8 },
  },
})
