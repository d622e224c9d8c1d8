import { defineNode } from '../../graph/define-node'
import { number, pair } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { stripeRows } from '../../kernels/stripes'

/** Even stripes whose counts across and down are whole, so that any slant tiles. Source: own derivation. */
export default defineNode({
  type: 'stripes',
  version: 1,
  family: 'shape',
  title: 'Stripes',
  summary: 'Even stripes at any slant that tiles.',
  keywords: ['lines', 'bars', 'bands', 'grooves', 'corrugated', 'planks'],
  params: {
    frequency: pair({
      default: [8, 0],
      min: -512,
      max: 512,
      softRange: [0, 32],
      whole: true,
      unit: 'cells',
      help: 'How many are crossed going right, and going down; both set give a slant, signs its direction.',
    }),
    coverage: number({ default: 0.5, min: 0, max: 1, help: 'How much of each stripe is bright.' }),
    softness: number({
      default: 0,
      min: 0,
      max: 1,
      softRange: [0, 0.1],
      unit: 'tile',
      help: 'Width of the edges; one texel at the least.',
    }),
    offset: number({ default: 0, min: -8, max: 8, softRange: [0, 1], help: 'Moves them, in stripes.' }),
  },
  inputs: {},
  outputs: {
    grey: grey({ help: '1 on stripes, 0 between.' }),
    phase: grey({ help: 'From 0 to 1 across each stripe and its gap.' }),
  },
  hardEdged: ['phase'],
  uses: ['metres'],
  footprint: 'point',
  presets: [
    { title: 'Boards', keywords: ['planks', 'decking'], params: { frequency: [6, 0], coverage: 0.96 } },
    { title: 'Thin lines', keywords: ['ruled', 'hatching'], params: { frequency: [0, 24], coverage: 0.15 } },
  ],
  notes: ({ frequency }, { metres }) => {
    const across = frequency[0] / metres[0]
    const down = frequency[1] / metres[1]
    const pitch = 1 / Math.sqrt(across * across + down * down)
    return frequency[0] === 0 && frequency[1] === 0
      ? ['With no count either way there is one stripe everywhere.']
      : [`One every ${(pitch * 1000).toFixed(1)} mm.`]
  },
  evaluate: (_, { frequency, coverage, softness, offset }, { grey: out, phase }, { width, rows, metres }) => {
    const down = frequency[1] / (metres[1] / metres[0])
    const stripes = { across: frequency[0], down, coverage, edge: Math.max(softness, 1 / width), offset }
    stripeRows(stripes, out ?? null, phase ?? null, rows)
  },
  example: { params: { frequency: [5, 3], coverage: 0.4 } },
})
