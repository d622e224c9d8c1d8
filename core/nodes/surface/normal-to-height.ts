import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { grey, normal } from '../../graph/ports'
import { fillValues } from '../../kernels/point'
import { HEIGHT_SCRATCH, SLOPES_WERE, heightOfNormals } from '../../kernels/height-of-normals'

/** Least squares over the tile. Source: R. Frankot, R. Chellappa 1988 (kernels/height-of-normals.ts). */
export default defineNode({
  type: 'normal-to-height',
  version: 1,
  family: 'surface',
  title: 'Normal to height',
  summary: 'Finds the heights that bend as the normals do.',
  keywords: ['displacement', 'integrate', 'relief', 'bump', 'normal map'],
  params: {
    strength: number({
      default: 1,
      min: -100,
      max: 100,
      softRange: [0, 4],
      help: '1 gives the true heights in the material’s height scale; more exaggerates, below 0 turns bumps into hollows.',
    }),
    slopes: choice({
      default: 'central',
      options: SLOPES_WERE,
      help: 'How the normals were made: central of differences between texels, as Height to normal and most tools do; true of the surface itself.',
    }),
  },
  inputs: {
    normal: normal({ help: 'Normals of a surface that repeats; what it rises from edge to edge is left out.' }),
  },
  outputs: { height: grey({ help: 'Unit height; its mean is 0.5, the surface.' }) },
  uses: ['metres', 'heightMetres'],
  footprint: 'whole',
  sliceable: false,
  tilesOnly: 'Normal to height works over a whole tile that repeats, and so not on a part.',
  scratchPlanes: () => HEIGHT_SCRATCH,
  evaluate: ({ normal: given }, { strength, slopes }, { height: out }, context) => {
    if (!out) return
    const { width, rows, metres, heightMetres, scratch } = context
    const scale = (heightMetres * width) / metres[0] / strength
    if (strength === 0 || heightMetres === 0) fillValues(out, rows, [0.5])
    else heightOfNormals(given, out, rows, scale, slopes, scratch)
  },
  example: {
    nodes: {
      noise: { type: 'noise', params: { cells: [4, 4], octaves: 3 } },
      bent: { type: 'height-to-normal', params: { strength: 4 }, inputs: { height: 'noise.grey' } },
    },
    inputs: { normal: 'bent.normal' },
    params: { strength: 0.25 },
  },
})
