import { defineNode } from '../../graph/define-node'
import { choice } from '../../graph/parameters'
import { grey, any } from '../../graph/ports'
import { GREY_METHODS, greyOf } from '../../kernels/channels'

/** One grey from three planes. Source of luminance: ITU-R BT.709-6, item 3.2. */
export default defineNode({
  type: 'to-grey',
  version: 1,
  family: 'channel',
  title: 'To grey',
  summary: 'One grey from a colour or a normal, by the way you choose.',
  keywords: ['luminance', 'desaturate', 'maximum', 'average', 'slope', 'steepness', 'black and white'],
  params: {
    method: choice({
      default: 'luminance',
      options: GREY_METHODS,
      help:
        'luminance weighs as the eye does; maximum, minimum and average take all three alike; first, second and third ' +
        'are red, green, blue or x, y, z; slope is how steep a normal lies, 0 flat and 1 upright.',
    }),
    encoding: choice({
      default: 'linear',
      options: ['linear', 'srgb'],
      help: 'For colours: as light, or as values the eye sees evenly.',
    }),
  },
  inputs: { source: any({ help: 'What is made grey.' }) },
  outputs: { result: grey({ help: 'The grey.' }) },
  genericTypes: ['colour', 'normal'],
  encoded: (params) => params.encoding === 'srgb',
  footprint: 'point',
  notes: ({ method }, { types }) =>
    method === 'slope' && types?.['source'] === 'colour'
      ? [
          'The source is a colour, and slope is of normals: this is the length of its red and green. Choose another method.',
        ]
      : [],
  evaluate: ({ source }, { method }, { result }, { rows }) => {
    if (result) greyOf(source, result, rows, method)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4] } },
      slopes: { type: 'height-to-normal', params: { strength: 4 }, inputs: { height: 'noise.grey' } },
    },
    inputs: { source: 'slopes.normal' },
    params: { method: 'slope' },
  },
})
