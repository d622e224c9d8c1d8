import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey, any } from '../../graph/ports'
import { blendByHeight } from '../../kernels/height-blend'

/** The higher one wins: 3t² − 2t³ of the difference over the softness. Source: common practice. */
export default defineNode({
  type: 'height-blend',
  version: 1,
  family: 'combine',
  title: 'Height blend',
  summary: 'Of two fields shows the one that stands higher, with a soft line between.',
  keywords: ['height mask', 'mix by height', 'silt', 'gravel', 'fill gaps', 'maximum'],
  usualFor: ['grey'],
  params: {
    raise: number({
      default: 0,
      min: -2,
      max: 2,
      softRange: [-0.5, 0.5],
      help: 'Lifts (above 0) or sinks (below) the second height.',
    }),
    softness: number({
      default: 0.1,
      min: 0,
      max: 2,
      softRange: [0, 0.5],
      help: 'Over which difference in height they mix.',
    }),
  },
  inputs: {
    first: any({ help: 'What shows where the first height is greater.' }),
    second: any({ help: 'What shows where the second height is greater.' }),
    firstHeight: grey({ help: 'The first height.', whenUnconnected: 0.5 }),
    secondHeight: grey({ help: 'The second height.', whenUnconnected: 0.5 }),
  },
  outputs: {
    result: any({ help: 'The higher one.' }),
    height: grey({ help: 'Its height.' }),
    mask: grey({ help: '1 where the second shows.' }),
  },
  genericTypes: ['grey', 'colour', 'vector'],
  footprint: 'point',
  evaluate: (inputs, { raise, softness }, out, { rows }) => blendByHeight(inputs, raise, softness, out, rows),
  example: {
    nodes: {
      spots: { type: 'spots', params: { cells: [5, 5], size: [0.8, 1.6], softness: 1 } },
      noise: { type: 'noise', params: { cells: [8, 8], octaves: 3 } },
      silt: { type: 'compress-range', params: { centre: 0.3, width: 0.3 }, inputs: { source: 'noise.grey' } },
    },
    inputs: { first: 'spots.grey', second: 'silt.result', firstHeight: 'spots.grey', secondHeight: 'silt.result' },
    params: { softness: 0.1 },
  },
})
