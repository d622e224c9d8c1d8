import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { grey, normal } from '../../graph/ports'
import { normalsOfHeight } from '../../kernels/normals'

/** True slopes from the height's scale and the tile's size, both in metres. Source: kernels/slopes.ts. */
export default defineNode({
  type: 'height-to-normal',
  version: 1,
  family: 'surface',
  title: 'Height to normal',
  summary: 'Turns heights into the directions that the surface faces.',
  keywords: ['normal map', 'bump', 'slope'],
  usualFor: ['grey'],
  params: {
    strength: number({
      default: 1,
      min: -100,
      max: 100,
      softRange: [0, 4],
      help: '1 gives the true slopes of the material’s height scale; more exaggerates, below 0 turns hollows into bumps.',
    }),
    method: choice({
      default: 'central',
      options: ['central', 'scharr'],
      help: 'central is crisp; scharr is smoother and truer on diagonals.',
    }),
  },
  inputs: { height: grey({ help: 'Unit height; 0.5 lies at the surface.' }) },
  outputs: { normal: normal({ help: 'Unit normals, +Y to the top.' }) },
  uses: ['metres', 'heightMetres'],
  mixedAtSeams: true,
  footprint: 1,
  evaluate: ({ height }, { strength, method }, { normal: out }, { width, rows, metres, heightMetres }) => {
    if (out) normalsOfHeight(height, out, rows, (strength * heightMetres * width) / metres[0], method)
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [4, 4], octaves: 3 } } },
    inputs: { height: 'noise.grey' },
    params: { strength: 4 },
  },
})
