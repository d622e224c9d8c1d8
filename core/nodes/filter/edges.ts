import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey, vector } from '../../graph/ports'
import { blurFootprint } from '../../kernels/blur'
import { blurredBand } from '../../kernels/blurred-band'
import { slopeReader } from '../../kernels/slopes'

const ROOT_TAU = 2.5066282746310002
const sigmaOf = (width: number, texels: number): number => (width / 2) * texels

/**
 * Steepness by Sobel's operator after a Gaussian, scaled so that a step from 0 to 1 reads 1. The Gaussian gives edges a
 * width in tile units, so that they look alike at every size. Source: kernels/slopes.ts; scaling: own derivation, the
 * steepest slope of a step under a Gaussian is 1/(σ√2π), and half the step a texel without one.
 */
export default defineNode({
  type: 'edges',
  version: 2,
  family: 'filter',
  title: 'Edges',
  summary: 'Bright where values change fast.',
  keywords: ['sobel', 'outline', 'contour', 'edge detect', 'gradient', 'steepness'],
  params: {
    width: number({
      default: 0.01,
      min: 0,
      max: 0.25,
      softRange: [0, 0.05],
      unit: 'tile',
      help: 'Width of the edges; 0 is as thin as two texels.',
    }),
    strength: number({ default: 1, min: 0, max: 100, softRange: [0, 4], help: 'At 1 a step from 0 to 1 reads 1.' }),
  },
  inputs: { source: grey({ help: 'Where edges are looked for.' }) },
  outputs: {
    edges: grey({ help: '0 where flat.' }),
    direction: vector({ help: 'Uphill, of length 1; 0 where flat.' }),
  },
  // The direction turns about at every crest and hollow.
  hardEdged: ['direction'],
  mixedAtSeams: true,
  footprint: ({ width }, { width: texels, height }) =>
    blurFootprint({ kind: 'gaussian', sigma: sigmaOf(width, texels) }, height) + 1,
  scratchPlanes: () => 1,
  evaluate: ({ source }, params, { edges, direction }, { width, tileTexels, rows }) => {
    const sigma = sigmaOf(params.width, tileTexels)
    const soft = blurredBand(source, source.planes[0]!, sigma, rows, 1)
    const slopeAt = slopeReader(soft, 'sobel')
    const slope = new Float64Array(2)
    const scale = Math.max(sigma * ROOT_TAU, 2) * params.strength
    for (let y = rows.from; y < rows.to; y++) {
      const e = edges ? rowStart(edges, y) : 0
      const d = direction ? rowStart(direction, y) : 0
      for (let x = 0; x < width; x++) {
        slopeAt(x, y, slope)
        const steep = Math.sqrt(slope[0]! * slope[0]! + slope[1]! * slope[1]!)
        if (edges) edges.planes[0]![e + x] = bounded(steep * scale)
        if (direction)
          for (let p = 0; p < 2; p++)
            direction.planes[p]![d + x] = steep < 1e-12 ? 0 : bounded(Math.fround(slope[p]! / steep))
      }
    }
  },
  example: {
    nodes: { spots: { type: 'spots', params: { cells: [5, 5], size: [0.8, 1.6], vary: 0.6 } } },
    inputs: { source: 'spots.grey' },
    params: { width: 0.03 },
  },
})
