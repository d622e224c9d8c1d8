import type { Field } from '../../field/field'
import { floorMod, rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey } from '../../graph/ports'
import { CONTOUR_PLANES, contourDistance } from '../../kernels/contour-distance'

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
    outside: grey({ help: 'Distance to the mask, as a share of the tile’s width.' }),
    inside: grey({ help: 'Distance to the edge from inside the mask, as a share of the tile’s width.' }),
  },
  footprint: 'whole',
  sliceable: false,
  scratchPlanes: () => CONTOUR_PLANES,
  evaluate: ({ source }, { level, range }, { halo, depth, outside, inside }, { width, height, rows, scratch }) => {
    const write = (out: Field | undefined, distances: Float32Array, value: (d: number) => number): void => {
      if (!out) return
      for (let y = rows.from; y < rows.to; y++) {
        const start = rowStart(out, y)
        const from = floorMod(y, height) * width
        for (let x = 0; x < width; x++) out.planes[0]![start + x] = value(distances[from + x]!)
      }
    }
    if (halo || outside) {
      const distances = contourDistance(source, level, 'outside', rows.check, scratch)
      write(outside, distances, (d) => d)
      write(halo, distances, (d) => Math.max(0, 1 - d / range))
    }
    if (depth || inside) {
      const distances = contourDistance(source, level, 'inside', rows.check, scratch)
      write(inside, distances, (d) => d)
      write(depth, distances, (d) => Math.min(1, d / range))
    }
  },
  example: {
    nodes: { spots: { type: 'noise', params: { cells: [5, 5], octaves: 1 } } },
    inputs: { source: 'spots.grey' },
    params: { range: 0.1 },
  },
})
