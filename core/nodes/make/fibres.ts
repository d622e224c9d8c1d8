import { defineNode } from '../../graph/define-node'
import { integer, number, pair, seed } from '../../graph/parameters'
import { grey, vector } from '../../graph/ports'
import { layStrokes, strokeFields } from '../../kernels/strokes'
import { streamSeed } from '../../random'

/** Random strokes. Source: own derivation (kernels/strokes.ts). */
export default defineNode({
  type: 'fibres',
  version: 1,
  family: 'make',
  title: 'Fibres',
  summary: 'Random strokes: scratches, hairs, brushed metal, grass, veins.',
  keywords: ['scratches', 'hair', 'brushed', 'strokes', 'straw', 'grain', 'needles', 'lines'],
  params: {
    count: integer({ default: 200, min: 0, max: 20000, softRange: [1, 2000], help: 'How many.' }),
    length: pair({
      default: [0.05, 0.2],
      min: 0.001,
      max: 1,
      softRange: [0.01, 0.5],
      unit: 'tile',
      help: 'Shortest and longest.',
    }),
    width: pair({
      default: [0.002, 0.006],
      min: 0.0001,
      max: 0.1,
      softRange: [0.0005, 0.02],
      unit: 'tile',
      help: 'Thinnest and thickest.',
    }),
    angle: number({
      default: 0,
      min: -8,
      max: 8,
      softRange: [0, 1],
      unit: 'turn',
      help: 'Main direction, counter-clockwise.',
    }),
    spread: number({
      default: 0.1,
      min: 0,
      max: 1,
      unit: 'turn',
      help: 'Range of directions around the main one; ½ is every direction.',
    }),
    bend: number({
      default: 0.05,
      min: 0,
      max: 1,
      softRange: [0, 0.3],
      help: 'How far middles stray, as a share of the length.',
    }),
    taper: number({ default: 0.8, min: 0, max: 1, help: 'How much thinner the ends are.' }),
    softness: number({ default: 0.5, min: 0, max: 1, help: 'How much of the width is edge; one texel at the least.' }),
    vary: number({ default: 0.5, min: 0, max: 1, help: 'How much fainter some are.' }),
    seed: seed(),
  },
  inputs: {},
  outputs: {
    grey: grey({ help: 'Brightness of the brightest stroke at each place.' }),
    value: grey({ help: 'A random value for each stroke; 0 outside.' }),
    direction: vector({ help: 'Its direction, of length 1; 0 outside.' }),
  },
  hardEdged: ['value', 'direction'],
  uses: ['seed'],
  footprint: 'point',
  scratchPlanes: () => 1,
  presets: [
    {
      title: 'Scratches',
      keywords: ['wear', 'scrape'],
      params: {
        count: 90,
        length: [0.04, 0.3],
        width: [0.0008, 0.002],
        spread: 1,
        bend: 0.02,
        taper: 1,
        softness: 0.3,
      },
    },
    {
      title: 'Hair',
      keywords: ['fur', 'strands'],
      params: { count: 600, length: [0.1, 0.3], width: [0.001, 0.003], spread: 0.06, bend: 0.08, taper: 1 },
    },
    {
      title: 'Straw',
      keywords: ['chaff', 'thatch'],
      params: {
        count: 160,
        length: [0.08, 0.2],
        width: [0.004, 0.009],
        spread: 0.4,
        bend: 0.01,
        taper: 0.2,
        softness: 0.2,
      },
    },
  ],
  prepare: (_, params, { width, height, rows, documentSeed }) =>
    layStrokes(params, streamSeed(documentSeed, params.seed, 'fibres'), height / width, rows.check),
  evaluate: (_, params, out, { width, height, rows, prepared: strokes }) =>
    strokeFields(strokes, params, { width, height }, rows, out),
  example: { params: { count: 60, width: [0.012, 0.03], taper: 0.3, bend: 0.15 } },
})
