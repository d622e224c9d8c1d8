import { defineNode } from '../../graph/define-node'
import { choice, integer, number, seed } from '../../graph/parameters'
import { colour, grey, meshData } from '../../graph/ports'
import { solidNoiseField } from '../../kernels/solid-noise'
import { streamSeed } from '../../random'

/** Noise of the places of the model, so that it knows no seam. Source: kernels/solid-noise.ts. */
export default defineNode({
  type: 'solid-noise',
  version: 1,
  family: 'mesh',
  title: 'Solid noise',
  summary: 'Noise in space: it runs over every seam of the part.',
  keywords: ['3d noise', 'seamless', 'volume', 'clouds', 'marble', 'grime'],
  params: {
    size: number({
      default: 0.2,
      min: 0.0001,
      max: 1000,
      softRange: [0.01, 1],
      unit: 'metre',
      help: 'Size of the largest features.',
    }),
    stretch: number({
      default: 1,
      min: 0.05,
      max: 20,
      softRange: [0.25, 4],
      help: 'How much taller than wide features are.',
    }),
    octaves: integer({ default: 4, min: 1, max: 8, help: 'Layers of ever finer noise.' }),
    gain: number({ default: 0.5, min: 0, max: 1, help: 'How strong each finer layer is.' }),
    style: choice({
      default: 'plain',
      options: ['plain', 'billow', 'ridged'],
      help: 'Even, puffy like clouds, or with sharp crests.',
    }),
    seed: seed(),
  },
  inputs: { position: colour({ help: 'Places in metres.', whenUnconnected: meshData('position') }) },
  outputs: { grey: grey({ help: 'Noise, about 0 to 1.' }) },
  uses: ['seed'],
  tiles: false,
  footprint: 'point',
  evaluate: ({ position }, params, { grey: out }, { rows, documentSeed }) => {
    if (!out) return
    const stream = streamSeed(documentSeed, params.seed, 'solid-noise')
    const scale = { across: 1 / params.size, up: 1 / (params.size * params.stretch) }
    solidNoiseField({ ...params, lacunarity: 2 }, stream, position, scale, out, rows)
  },
  example: { onPart: true },
})
