import { defineNode } from '../../graph/define-node'
import { choice, number, pair, seed } from '../../graph/parameters'
import { id, grey } from '../../graph/ports'
import { OVERLAPS, scatterSpots } from '../../kernels/spots'
import { streamSeed } from '../../random'

/** Soft discs scattered at random, one at most to each cell of a lattice. Source: own derivation. */
export default defineNode({
  type: 'spots',
  version: 1,
  family: 'make',
  title: 'Spots',
  summary: 'Soft discs scattered at random.',
  keywords: ['dots', 'splats', 'splatter', 'scatter', 'speckle', 'pits', 'drops', 'bubbles', 'lichen', 'gravel'],
  params: {
    cells: pair({
      default: [10, 10],
      min: 1,
      max: 512,
      softRange: [1, 64],
      whole: true,
      unit: 'cells',
      help: 'Places across and down; each holds one spot at most.',
    }),
    density: number({ default: 0.7, min: 0, max: 1, help: 'The share of places that hold one.' }),
    size: pair({
      default: [0.2, 0.9],
      min: 0.01,
      max: 4,
      softRange: [0.05, 2],
      title: 'Size range',
      help: 'Smallest and largest diameter, in cells.',
    }),
    softness: number({ default: 0.5, min: 0, max: 1, help: 'How much of the radius is edge; one texel at the least.' }),
    overlap: choice({ default: 'maximum', options: OVERLAPS, help: 'Where spots lie over each other.' }),
    vary: number({ default: 0, min: 0, max: 1, help: 'How much fainter some are.' }),
    seed: seed(),
  },
  inputs: {},
  outputs: {
    grey: grey({ help: '1 within spots, 0 outside.' }),
    value: grey({ help: 'A random value for each spot; 0 outside.' }),
    id: id({ help: '1 and up for each spot; 0 outside.' }),
  },
  hardEdged: ['value'],
  uses: ['seed', 'metres'],
  footprint: 'point',
  presets: [
    {
      title: 'Speckle',
      keywords: ['dots', 'grit', 'flecks'],
      params: { cells: [48, 48], density: 0.3, size: [0.1, 0.4], softness: 0.2 },
    },
    {
      title: 'Drops',
      keywords: ['rain', 'splash', 'beads'],
      params: { cells: [14, 14], density: 0.5, size: [0.1, 0.8], softness: 1 },
    },
    {
      title: 'Pits',
      keywords: ['pores', 'holes', 'cork'],
      params: { cells: [24, 24], density: 0.6, size: [0.1, 0.6], softness: 0.8, vary: 0.6 },
    },
  ],
  evaluate: (_, params, out, { width, rows, documentSeed, metres }) =>
    scatterSpots(params, streamSeed(documentSeed, params.seed, 'spots'), metres[1] / metres[0], width, out, rows),
  example: { params: { cells: [7, 7], size: [0.3, 1.4], vary: 0.6 } },
})
