import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, number, pair, seed } from '../../graph/parameters'
import { id, grey } from '../../graph/ports'
import { cellDistances } from '../../kernels/cells'
import { streamSeed } from '../../random'

/** Distances to scattered points. Source: S. Worley, "A Cellular Texture Basis Function", SIGGRAPH 1996. */
export default defineNode({
  type: 'cells',
  version: 1,
  family: 'make',
  title: 'Cells',
  summary: 'Scattered points, the regions around them, and how far their borders are.',
  keywords: ['worley', 'voronoi', 'cellular', 'cracks', 'pebbles', 'scales'],
  params: {
    cells: pair({
      default: [8, 8],
      min: 1,
      max: 1024,
      softRange: [1, 64],
      whole: true,
      unit: 'cells',
      help: 'Points across and down; whole numbers, so that the field tiles.',
    }),
    jitter: number({ default: 1, min: 0, max: 1, help: 'How far points stray from a regular grid.' }),
    metric: choice({
      default: 'euclid',
      options: ['euclid', 'manhattan', 'chebyshev'],
      help: 'How distance is measured: straight, along the axes, or by the longer axis.',
    }),
    seed: seed(),
  },
  inputs: {},
  outputs: {
    nearest: grey({ help: 'Distance to the nearest point (F1), in cells.' }),
    second: grey({ help: 'Distance to the second point (F2), in cells.' }),
    gap: grey({ help: 'F2 − F1: 0 along borders.' }),
    border: grey({ help: 'Exact distance to the nearest border, in cells.' }),
    value: grey({ help: 'A random value for each cell.' }),
    id: id({ help: 'A number for each cell.' }),
  },
  hardEdged: ['value'],
  uses: ['seed'],
  footprint: 'point',
  presets: [
    { title: 'Pebbles', keywords: ['stones', 'gravel'], params: { cells: [10, 10], jitter: 0.8 } },
    { title: 'Crystals', keywords: ['facets', 'angular'], params: { cells: [6, 6], jitter: 1, metric: 'chebyshev' } },
    { title: 'Diamonds', keywords: ['lozenge', 'quilt'], params: { cells: [8, 8], jitter: 0, metric: 'manhattan' } },
  ],
  evaluate: (_, params, out, { width, height, rows, documentSeed }) => {
    const some = Object.values(out).find((field): field is Field => field !== undefined)
    if (!some) return
    const planes = {
      nearest: out.nearest?.planes[0],
      second: out.second?.planes[0],
      gap: out.gap?.planes[0],
      border: out.border?.planes[0],
      value: out.value?.planes[0],
      id: out.id?.ids ?? undefined,
    }
    const stream = streamSeed(documentSeed, params.seed, 'cells')
    cellDistances(params, stream, { width, height }, rows, planes, (y) => rowStart(some, y))
  },
  example: { params: { cells: [6, 6] } },
})
