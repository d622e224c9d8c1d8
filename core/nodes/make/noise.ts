import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, integer, number, pair, seed } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { fractalNoise } from '../../kernels/noise'
import { streamSeed } from '../../random'

/** Fractal gradient noise. Source: K. Perlin, "Improving Noise", SIGGRAPH 2002. */
export default defineNode({
  type: 'noise',
  version: 2,
  family: 'make',
  title: 'Noise',
  summary: 'Soft random hills and hollows in several sizes.',
  keywords: ['perlin', 'fractal', 'clouds', 'fbm', 'billow', 'ridged', 'turbulence', 'dirt', 'grime'],
  params: {
    cells: pair({
      default: [8, 8],
      min: 1,
      max: 4096,
      softRange: [1, 64],
      whole: true,
      unit: 'cells',
      help: 'Hills across and down; whole numbers, so that the field tiles.',
    }),
    octaves: integer({ default: 4, min: 1, max: 12, help: 'How many sizes are laid over each other.' }),
    lacunarity: integer({ default: 2, min: 2, max: 8, help: 'How many times finer each size is than the one before.' }),
    gain: number({ default: 0.5, min: 0, max: 1, help: 'How strong each size is against the one before.' }),
    style: choice({
      default: 'plain',
      options: ['plain', 'billow', 'ridged'],
      help: 'plain: hills and hollows alike; billow: rounded heaps; ridged: sharp crests.',
    }),
    depth: number({
      default: 0,
      min: -1000,
      max: 1000,
      softRange: [0, 8],
      unit: 'cells',
      help: 'Place along a third direction; moving it makes the noise boil.',
    }),
    depthPeriod: integer({
      default: 8,
      min: 1,
      max: 1024,
      unit: 'cells',
      help: 'After this many cells of depth the noise is itself again.',
    }),
    directions: choice({
      default: 'even',
      options: ['even', 'uneven'],
      help: 'even: as strong across as down; uneven: stronger down than across, as noises were at first.',
    }),
    seed: seed(),
  },
  inputs: {},
  outputs: { grey: grey({ help: 'The noise, around 0.5.' }) },
  uses: ['seed'],
  footprint: 'point',
  // Documents from before keep their look.
  upgrade: { 1: (params) => ({ directions: 'uneven', ...params }) },
  presets: [
    { title: 'Clouds', keywords: ['soft', 'large'], params: { cells: [3, 3], octaves: 7 } },
    { title: 'Fine grain', keywords: ['sand', 'film', 'tiny'], params: { cells: [96, 96], octaves: 2 } },
    {
      title: 'Ridges',
      keywords: ['mountain', 'veins', 'crease'],
      params: { cells: [5, 5], octaves: 6, style: 'ridged' },
    },
    { title: 'Lumps', keywords: ['billow', 'clay', 'dough'], params: { cells: [6, 6], octaves: 5, style: 'billow' } },
    { title: 'Streaks', keywords: ['brushed', 'wood', 'rain', 'stretched'], params: { cells: [2, 64], octaves: 3 } },
  ],
  evaluate: (_, params, { grey: out }, { width, height, rows, documentSeed }) => {
    if (!out) return
    const stream = streamSeed(documentSeed, params.seed, 'noise')
    const shape = { ...params, even: params.directions === 'even' }
    fractalNoise(shape, stream, { width, height }, rows, out.planes[0]!, (y) => rowStart(out, y))
  },
  example: { params: { cells: [5, 5], octaves: 4 } },
})
