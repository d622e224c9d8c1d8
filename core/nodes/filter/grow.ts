import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { any } from '../../graph/ports'
import { growField, growFootprint } from '../../kernels/morphology'

/** Bright parts spread. Source: grey dilation (kernels/morphology.ts). */
export default defineNode({
  type: 'grow',
  version: 1,
  family: 'filter',
  title: 'Grow',
  summary: 'Spreads bright parts: each place takes the largest value near it.',
  keywords: ['dilate', 'expand', 'maximum', 'thicken', 'morphology'],
  params: {
    radius: number({ default: 0.01, min: 0, max: 0.1, softRange: [0, 0.03], unit: 'tile', help: 'How far.' }),
    shape: choice({ default: 'round', options: ['round', 'square'], help: 'What corners become.' }),
  },
  inputs: { source: any({ help: 'What spreads.' }) },
  outputs: { result: any({ help: 'The spread field; each channel of a colour by itself.' }) },
  genericTypes: ['grey', 'colour'],
  mixedAtSeams: true,
  footprint: ({ radius }, { width }) => growFootprint(radius * width),
  evaluate: ({ source }, { radius, shape }, { result }, { tileTexels, rows }) => {
    if (result) growField(source, result, rows, radius * tileTexels, shape, 1)
  },
  example: {
    nodes: { spots: { type: 'spots', params: { cells: [5, 5], size: [0.4, 1.4], vary: 0.6 } } },
    inputs: { source: 'spots.grey' },
    params: { radius: 0.015 },
  },
})
