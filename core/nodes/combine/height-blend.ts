import type { Field } from '../../field/field'
import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey, any } from '../../graph/ports'
import { mixBounded } from '../../kernels/blend-fields'
import { smoothstep } from '../../kernels/point'

/** The higher one wins: 3t² − 2t³ of the difference over the softness. Source: common practice. */
export default defineNode({
  type: 'height-blend',
  version: 1,
  family: 'combine',
  title: 'Height blend',
  summary: 'Of two fields shows the one that stands higher, with a soft line between.',
  keywords: ['height mask', 'mix by height', 'silt', 'gravel', 'fill gaps', 'maximum'],
  params: {
    raise: number({
      default: 0,
      min: -2,
      max: 2,
      softRange: [-0.5, 0.5],
      help: 'Lifts (above 0) or sinks (below) the second height.',
    }),
    softness: number({
      default: 0.1,
      min: 0,
      max: 2,
      softRange: [0, 0.5],
      help: 'Over which difference in height they mix.',
    }),
  },
  inputs: {
    first: any({ help: 'What shows where the first height is greater.' }),
    second: any({ help: 'What shows where the second height is greater.' }),
    firstHeight: grey({ help: 'The first height.', whenUnconnected: 0.5 }),
    secondHeight: grey({ help: 'The second height.', whenUnconnected: 0.5 }),
  },
  outputs: {
    result: any({ help: 'The higher one.' }),
    height: grey({ help: 'Its height.' }),
    mask: grey({ help: '1 where the second shows.' }),
  },
  genericTypes: ['grey', 'colour', 'vector'],
  footprint: 'point',
  evaluate: ({ first, second, firstHeight, secondHeight }, { raise, softness }, out, { width, rows }) => {
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const at = (field: Field | undefined): number => (field ? rowStart(field, y) : 0)
      const [f0, s0, a0, b0] = [at(first), at(second), at(firstHeight), at(secondHeight)]
      const [r, h, m] = [at(out.result), at(out.height), at(out.mask)]
      for (let x = 0; x < width; x++) {
        const low = firstHeight.planes[0]![a0 + x]!
        const high = Math.fround(secondHeight.planes[0]![b0 + x]! + raise)
        const w = smoothstep(-softness / 2, softness / 2, Math.fround(high - low))
        if (out.mask) out.mask.planes[0]![m + x] = w
        if (out.height) out.height.planes[0]![h + x] = mixBounded(low, high, w)
        out.result?.planes.forEach(
          (plane, p) => (plane[r + x] = mixBounded(first.planes[p]![f0 + x]!, second.planes[p]![s0 + x]!, w)),
        )
      }
    }
  },
  example: {
    nodes: {
      spots: { type: 'spots', params: { cells: [5, 5], size: [0.8, 1.6], softness: 1 } },
      noise: { type: 'noise', params: { cells: [8, 8], octaves: 3 } },
      silt: { type: 'compress-range', params: { centre: 0.3, width: 0.3 }, inputs: { source: 'noise.grey' } },
    },
    inputs: { first: 'spots.grey', second: 'silt.result', firstHeight: 'spots.grey', secondHeight: 'silt.result' },
    params: { softness: 0.1 },
  },
})
