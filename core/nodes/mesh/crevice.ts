import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { number } from '../../graph/parameters'
import { grey, meshData } from '../../graph/ports'
import { blurFootprint } from '../../kernels/blur'
import { blurredField, blurredRow } from '../../kernels/blurred-field'
import { smoothstep } from '../../kernels/point'

/**
 * Where dirt stays: what is darker than its surroundings within a distance, and what is dark altogether. Own composition: darkness
 * d = 1 − occlusion, its mean m under a Gaussian; narrow hollows are 2 (d − m), hollows inside hollows those where m is dark too.
 */
export default defineNode({
  type: 'crevice',
  version: 1,
  family: 'mesh',
  title: 'Crevice',
  summary: 'Corners and hollows, where dirt stays.',
  keywords: ['dirt', 'cavity', 'occlusion', 'grime', 'concave', 'recess', 'soot'],
  params: {
    distance: number({
      default: 0.05,
      min: 0,
      max: 100,
      softRange: [0, 0.5],
      unit: 'metre',
      help: 'Hollows narrower than this are found by themselves, however light their surroundings are.',
    }),
    broad: number({
      default: 0.6,
      min: 0,
      max: 2,
      softRange: [0, 1],
      help: 'How much wide shade counts beside narrow hollows.',
    }),
    level: number({ default: 0.4, min: 0, max: 2, softRange: [0, 1], help: 'How dark it must be there.' }),
    softness: number({ default: 0.5, min: 0, max: 4, softRange: [0, 1], help: 'How gradually dirt begins.' }),
    breakup: number({
      default: 0.5,
      min: 0,
      max: 4,
      softRange: [0, 1],
      help: 'How strongly the breakup frays the outline.',
    }),
  },
  inputs: {
    occlusion: grey({ help: 'Occlusion: 1 open, 0 closed.', whenUnconnected: meshData('occlusion') }),
    breakup: grey({ help: 'Noise that frays the outline: 0.5 not at all.', whenUnconnected: null }),
    distanceBy: grey({ title: 'Distance by', help: 'Multiplies the distance, 0 to 1.', whenUnconnected: null }),
  },
  outputs: {
    crevices: grey({ help: 'Where dirt stays, 0 to 1.' }),
    deep: grey({ help: 'Hollows inside hollows, 0 to 1.' }),
  },
  uses: ['metres'],
  tiles: false,
  mixedAtSeams: true,
  footprint: ({ distance }, { width, height, metres }) =>
    blurFootprint({ kind: 'gaussian', sigma: (distance * width) / metres[0] }, height),
  scratchPlanes: () => 1,
  evaluate: ({ occlusion, breakup, distanceBy }, params, { crevices, deep }, { width, rows, metres }) => {
    const { level, softness, broad } = params
    const around = blurredField(occlusion, (params.distance * width) / metres[0], distanceBy, rows)
    const [low, high] = [Math.max(0, level - softness / 2), level + softness / 2]
    const mask = (value: number): number =>
      bounded(softness === 0 ? Number(value >= level) : smoothstep(low, high, value))
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const [o, from, b] = [rowStart(occlusion, y), blurredRow(around, y), breakup ? rowStart(breakup, y) : 0]
      const [c, d] = [crevices ? rowStart(crevices, y) : 0, deep ? rowStart(deep, y) : 0]
      for (let x = 0; x < width; x++) {
        const dark = 1 - occlusion.planes[0]![o + x]!
        const mean = 1 - around.planes[0]![from + x]!
        const narrow = Math.max(0, 2 * (dark - mean))
        const broken = breakup ? (breakup.planes[0]![b + x]! - 0.5) * params.breakup : 0
        const value = Math.max(narrow, dark * broad)
        if (crevices) crevices.planes[0]![c + x] = mask(value + broken * Math.min(1, Math.max(0, value * 2)))
        if (deep) {
          const both = narrow * Math.min(1, Math.max(0, 2 * mean))
          deep.planes[0]![d + x] = mask(both + broken * Math.min(1, both * 2))
        }
      }
    }
  },
  example: { onPart: true, params: { level: 0.3 } },
})
