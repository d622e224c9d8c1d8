import { defineNode } from '../../graph/define-node'
import { choice, curve } from '../../graph/parameters'
import { any } from '../../graph/ports'
import { curveOfValues } from '../../kernels/values'

/** Values through a curve that keeps between its points. Source: Fritsch and Butland 1984 (kernels/curve.ts). */
export default defineNode({
  type: 'curve',
  version: 1,
  family: 'tone',
  title: 'Curve',
  summary: 'Bends values by a curve through points.',
  keywords: ['tone curve', 'contrast', 'profile', 'spline', 'transfer'],
  params: {
    points: curve({
      default: [
        { at: 0, to: 0 },
        { at: 0.3, to: 0.2 },
        { at: 0.7, to: 0.8 },
        { at: 1, to: 1 },
      ],
      help: 'What each value becomes; between points the curve neither rises above nor falls below them.',
    }),
    encoding: choice({
      default: 'srgb',
      options: ['srgb', 'linear'],
      help: 'For colours: on values as the eye sees them, or on light.',
    }),
  },
  inputs: { source: any({ help: 'What is bent.' }) },
  outputs: { result: any({ help: 'The bent values, within those of the points.' }) },
  genericTypes: ['grey', 'colour'],
  encoded: (params) => params.encoding === 'srgb',
  footprint: 'point',
  presets: [
    {
      title: 'Rounded profile',
      keywords: ['dome', 'pillow', 'bevel'],
      params: {
        points: [
          { at: 0, to: 0 },
          { at: 0.15, to: 0.53 },
          { at: 0.4, to: 0.8 },
          { at: 1, to: 1 },
        ],
      },
    },
  ],
  evaluate: ({ source }, { points }, { result }, { rows }) => {
    if (result) curveOfValues(source, result, rows, points)
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [5, 5] } } },
    inputs: { source: 'noise.grey' },
  },
})
