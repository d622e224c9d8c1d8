import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { horizonOcclusion } from '../../kernels/horizon'

/** How open the sky is above each texel. Source: L. Bavoil et al. 2008; kernels/horizon.ts. */
export default defineNode({
  type: 'height-to-occlusion',
  version: 2,
  family: 'surface',
  title: 'Height to occlusion',
  summary: 'Darkens hollows by how much sky their surroundings hide.',
  keywords: ['ambient occlusion', 'ao', 'cavity', 'shadow'],
  params: {
    radius: number({
      default: 0.05,
      min: 0.0001,
      max: 100,
      softRange: [0.001, 0.5],
      unit: 'metre',
      help: 'How far surroundings count: the slope to the nearest fully, to farther ones less, by √(1 − (d/r)²), at the radius not at all. So it is lighter than rays cut off at the radius would be (by about 0.05 at 8 texels). At most a quarter of the tile.',
    }),
    strength: number({ default: 1, min: 0, max: 4, softRange: [0, 1], help: '1 is true; more darkens further.' }),
  },
  inputs: { height: grey({ help: 'Unit height; 0.5 lies at the surface.' }) },
  outputs: { occlusion: grey({ help: '1 open, 0 hidden.' }) },
  uses: ['metres', 'heightMetres'],
  mixedAtSeams: true,
  footprint: ({ radius }, { width, metres }) => Math.ceil(radiusTexels(radius, width, metres[0])) + 2,
  presets: [
    { title: 'Crevices', keywords: ['fine', 'cavity'], params: { radius: 0.015, strength: 1.5 } },
    { title: 'Broad', keywords: ['large', 'soft'], params: { radius: 0.15, strength: 1 } },
  ],
  evaluate: ({ height }, { radius, strength }, { occlusion }, { width, tileTexels, rows, metres, heightMetres }) => {
    if (!occlusion) return
    const rise = (heightMetres * width) / metres[0]
    // The most that counts is a share of the tile, not of what is worked on.
    const tileMetres = (metres[0] * tileTexels) / width
    horizonOcclusion(height, occlusion, rows, rise, radiusTexels(radius, tileTexels, tileMetres), strength)
  },
  upgrade: { 1: (params) => params },
  example: {
    nodes: { cells: { type: 'cells', params: { cells: [5, 5] } } },
    inputs: { height: 'cells.border' },
    params: { radius: 0.1 },
  },
})

const radiusTexels = (radius: number, width: number, metres: number): number =>
  Math.max(0.5, Math.min(radius / metres, 0.25) * width)
