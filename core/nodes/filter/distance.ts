import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { CONTOUR_PHASES, CONTOUR_PLANES, contourDistances } from '../../kernels/contour-distance'

/** How far the edge of a mask is. Source: kernels/contour-distance.ts. */
export default defineNode({
  type: 'distance',
  version: 2,
  family: 'filter',
  title: 'Distance',
  summary: 'Measures how far the edge of a mask is, outside and inside.',
  keywords: ['distance field', 'sdf', 'halo', 'edge', 'outline', 'falloff'],
  params: {
    level: number({
      default: 0.5,
      min: -100,
      max: 100,
      softRange: [0, 1],
      help: 'The mask is what reaches this value.',
    }),
    range: number({
      default: 0.05,
      min: 0.0001,
      max: 1,
      softRange: [0.005, 0.25],
      unit: 'tile',
      help: 'Over which halo and depth run.',
    }),
  },
  inputs: { source: grey({ help: 'The mask.' }) },
  outputs: {
    halo: grey({ help: '1 on the mask, falling to 0 over the range outside it.' }),
    depth: grey({ help: '0 at the edge and outside, rising to 1 over the range inside.' }),
    outside: grey({ help: 'Distance to the mask, as a share of the tile’s width; on a part exact up to the range.' }),
    inside: grey({
      help: 'Distance to the edge from inside the mask, as a share of the tile’s width; on a part exact up to the range.',
    }),
  },
  footprint: 'whole',
  footprintOnPart: ({ range }, { width }) => Math.ceil(range * width) + 2,
  mixedAtSeams: true,
  sliceable: false,
  scratchPlanes: () => CONTOUR_PLANES,
  phases: CONTOUR_PHASES,
  evaluate: ({ source }, { level, range }, { halo, depth, outside, inside }, context) => {
    // Distances are told in widths of what is worked on: of a tile, or of the picture of an island.
    const widths = context.tileTexels / context.width
    // Beyond their range halo and depth stay as they are.
    const most = range * widths
    const wanted = [
      ...(halo || outside ? [{ side: 'outside', most: outside ? Infinity : most } as const] : []),
      ...(depth || inside ? [{ side: 'inside', most: inside ? Infinity : most } as const] : []),
    ]
    contourDistances(source, level, wanted, context, (side, y, distances) => {
      const [plain, ranged] = side === 'outside' ? [outside, halo] : [inside, depth]
      if (plain) {
        const start = rowStart(plain, y)
        const out = plain.planes[0]!
        for (let x = 0; x < distances.length; x++) out[start + x] = distances[x]! / widths
      }
      if (!ranged) return
      const start = rowStart(ranged, y)
      const out = ranged.planes[0]!
      for (let x = 0; x < distances.length; x++) {
        const ratio = distances[x]! / most
        out[start + x] = side === 'outside' ? Math.max(0, 1 - ratio) : Math.min(1, ratio)
      }
    })
  },
  example: {
    nodes: { spots: { type: 'noise', params: { cells: [5, 5], octaves: 1 } } },
    inputs: { source: 'spots.grey' },
    params: { range: 0.1 },
  },
})
