import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { any } from '../../graph/ports'
import { blurPlane, blurFootprint } from '../../kernels/blur'

const gaussian = (sigma: number) => ({ kind: 'gaussian', sigma }) as const

/** ½ + (v − blurred) · strength. Source: common practice. */
export default defineNode({
  type: 'high-pass',
  version: 2,
  family: 'filter',
  title: 'High pass',
  summary: 'Keeps the fine and drops the large: what a blur takes away, around ½.',
  keywords: ['detail', 'flatten', 'even out', 'remove shading', 'equalise'],
  params: {
    radius: number({
      default: 0.05,
      min: 0,
      max: 0.25,
      softRange: [0.005, 0.2],
      unit: 'tile',
      help: 'What is larger is dropped: the standard deviation of the Gaussian.',
    }),
    strength: number({ default: 1, min: 0, max: 100, softRange: [0, 4], help: 'How far from ½ the detail goes.' }),
  },
  inputs: { source: any({ help: 'What is filtered.' }) },
  outputs: { result: any({ help: 'The detail, around ½.' }) },
  genericTypes: ['grey', 'colour'],
  encoded: () => true,
  mixedAtSeams: true,
  footprint: ({ radius }, { width, height }) => blurFootprint(gaussian(radius * width), height),
  evaluate: ({ source }, { radius, strength }, { result }, { width, tileTexels, rows }) => {
    if (!result) return
    result.planes.forEach((target, p) => {
      const plane = source.planes[p]!
      blurPlane(source, plane, gaussian(radius * tileTexels), rows, (y, row) => {
        const s = rowStart(source, y)
        const o = rowStart(result, y)
        for (let x = 0; x < width; x++)
          target[o + x] = bounded(Math.fround(0.5 + strength * Math.fround(plane[s + x]! - row[x]!)))
      })
    })
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [3, 3], octaves: 4 } } },
    inputs: { source: 'noise.grey' },
    params: { strength: 2 },
  },
})
