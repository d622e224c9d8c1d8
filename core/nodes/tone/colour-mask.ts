import { hexToLinear } from '../../colour/srgb'
import { defineNode } from '../../graph/define-node'
import { colourParameter, number } from '../../graph/parameters'
import { colour, grey } from '../../graph/ports'
import { maskColours } from '../../kernels/oklab-tones'

/** A mask of what is like a colour. Source of the distance: Oklab (kernels/oklab-tones.ts). */
export default defineNode({
  type: 'colour-mask',
  version: 2,
  family: 'tone',
  title: 'Colour mask',
  summary: 'Makes a mask of what is close to a colour.',
  keywords: ['near colour', 'select by colour', 'colour key', 'mask', 'range', 'pick'],
  params: {
    centre: colourParameter({ default: '#7a6f5a', help: 'The colour looked for; it can be picked from the stage.' }),
    tolerance: number({
      default: 0.1,
      min: 0,
      max: 2,
      softRange: [0, 0.4],
      help: 'How far colours may be off, as the eye sees it: 0.02 is just noticeable, 1 is black to white.',
    }),
    softness: number({
      default: 0.05,
      min: 0,
      max: 2,
      softRange: [0, 0.2],
      help: 'Width of the edge around the tolerance.',
    }),
    lightness: number({ default: 1, min: 0, max: 1, help: 'How much lightness counts; at 0 only hue and chroma do.' }),
  },
  inputs: { source: colour({ help: 'The colours to choose from.' }) },
  outputs: {
    mask: grey({ help: '1 where the colour is near, 0 where it is not.' }),
    distance: grey({ help: 'How far off each colour is.' }),
  },
  footprint: 'point',
  upgrade: { 1: (params) => params },
  evaluate: ({ source }, { centre, ...params }, out, { rows }) =>
    maskColours(source, out, rows, { centre: hexToLinear(centre), ...params }),
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      tint: {
        type: 'gradient-remap',
        params: {
          stops: [
            { at: 0.25, colour: '#2f4a5a' },
            { at: 0.5, colour: '#7a6f5a' },
            { at: 0.75, colour: '#c8b48a' },
          ],
        },
        inputs: { source: 'noise.grey' },
      },
    },
    inputs: { source: 'tint.result' },
  },
})
