import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { any, grey } from '../../graph/ports'
import { bleedColour } from '../../kernels/bleed-colour'

/** Common practice: so that filters and mips find no dark fringe around what is cut out. */
export default defineNode({
  type: 'bleed',
  version: 1,
  family: 'filter',
  title: 'Bleed',
  summary: 'Grows a colour outward under what is transparent.',
  keywords: ['alpha bleed', 'dilate', 'edge colour', 'fringe', 'cut-out', 'solidify'],
  params: {
    level: number({
      default: 0.01,
      min: 0,
      max: 1,
      help: 'What is less opaque takes the colour of the nearest texel that is not.',
    }),
  },
  inputs: {
    source: any({ help: 'The colour.' }),
    opacity: grey({ help: 'How opaque it is, 0–1.' }),
  },
  outputs: { result: any({ help: 'The colour, grown outward.' }) },
  genericTypes: ['grey', 'colour'],
  footprint: 'whole',
  sliceable: false,
  scratchPlanes: () => 3,
  evaluate: ({ source, opacity }, { level }, { result }, { rows }) => {
    if (result) bleedColour(source, opacity, result, level, rows)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4], octaves: 1 } },
      spots: { type: 'threshold', params: { level: 0.6 }, inputs: { source: 'noise.grey' } },
      tint: {
        type: 'gradient-remap',
        params: {
          stops: [
            { at: 0.4, colour: '#7a2e1e' },
            { at: 0.8, colour: '#e0b060' },
          ],
        },
        inputs: { source: 'noise.grey' },
      },
    },
    inputs: { source: 'tint.result', opacity: 'spots.result' },
  },
})
