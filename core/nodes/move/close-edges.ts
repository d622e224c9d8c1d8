import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { any } from '../../graph/ports'
import type { CloseOptions } from '../../kernels/close-edges'
import { CLOSED_EDGES, closeEdges, cutsOf } from '../../kernels/close-edges'

interface Params {
  readonly edges: (typeof CLOSED_EDGES)[number]
  readonly method: 'cut' | 'fade'
  readonly width: number
  readonly softness: number
}
const optionsOf = ({ edges, method, width, softness }: Params, texels: number): CloseOptions => ({
  edges,
  cuts: method === 'cut',
  band: Math.max(2, width * texels),
  soft: Math.max(0.5, softness * texels),
})

/** A picture goes over into itself moved by half. Source: A. Efros, W. Freeman 2001 (kernels/close-edges.ts). */
export default defineNode({
  type: 'close-edges',
  version: 1,
  family: 'move',
  title: 'Close edges',
  summary: 'Makes a picture repeat without a seam.',
  keywords: ['tile', 'seamless', 'make tile', 'photo', 'picture', 'offset', 'quilting'],
  usualFor: ['colour'],
  params: {
    method: choice({
      default: 'cut',
      options: ['cut', 'fade'],
      help: 'cut goes over where the picture differs least from itself, and keeps it crisp; fade mixes over the whole width.',
    }),
    width: number({
      default: 0.2,
      min: 0,
      max: 0.5,
      softRange: [0.02, 0.4],
      unit: 'tile',
      help: 'How far from the border it may go over.',
    }),
    softness: number({
      default: 0.01,
      min: 0,
      max: 0.1,
      softRange: [0, 0.04],
      unit: 'tile',
      help: 'How softly it goes over at a cut.',
    }),
    edges: choice({ default: 'both', options: CLOSED_EDGES, help: 'Which borders do not fit yet.' }),
  },
  inputs: { source: any({ help: 'The picture. What lies at its middle is shown at its borders too.' }) },
  outputs: { result: any({ help: 'The picture; each border goes on at the other.' }) },
  genericTypes: ['grey', 'colour'],
  footprint: 'whole',
  tilesOnly:
    'Close edges makes a picture repeat over a tile, and so has nothing to do on a part. Project lays a picture on a part.',
  prepare: ({ source }, params, { width, rows }) => cutsOf(source, optionsOf(params, width), rows.check),
  evaluate: ({ source }, params, { result }, { width, rows, prepared }) => {
    if (result) closeEdges(source, result, rows, optionsOf(params, width), prepared)
  },
  example: {
    nodes: {
      ramp: { type: 'ramp', params: { angle: 0.1 } },
      noise: { type: 'noise', params: { cells: [6, 6], octaves: 3 } },
      mixed: { type: 'blend', params: { amount: 0.5 }, inputs: { base: 'ramp.grey', source: 'noise.grey' } },
    },
    inputs: { source: 'mixed.result' },
  },
})
