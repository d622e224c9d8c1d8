import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { any } from '../../graph/ports'
import { remapValues } from '../../kernels/values'

/** centre + (v − ½) · width. Source: own derivation. */
export default defineNode({
  type: 'compress-range',
  version: 1,
  family: 'tone',
  title: 'Compress range',
  summary: 'Squeezes the whole range into a width around a centre.',
  keywords: ['span', 'squeeze', 'compress', 'less detail', 'more detail', 'roughness range'],
  params: {
    centre: number({ default: 0.5, min: -100, max: 100, softRange: [0, 1], help: 'Where mid-grey goes.' }),
    width: number({
      default: 0.25,
      min: -100,
      max: 100,
      softRange: [0, 1],
      help: 'How far black and white lie apart afterwards.',
    }),
  },
  inputs: { source: any({ help: 'What is squeezed.' }) },
  outputs: { result: any({ help: 'Values around the centre.' }) },
  genericTypes: ['grey', 'colour'],
  footprint: 'point',
  evaluate: ({ source }, { centre, width }, { result }, { rows }) => {
    if (result) remapValues(source, result, rows, { from: 0.5, width: 1, to: centre, span: width })
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [5, 5] } } },
    inputs: { source: 'noise.grey' },
    params: { centre: 0.7, width: 0.4 },
  },
})
