import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { grey, any } from '../../graph/ports'
import type { BlurProfile } from '../../kernels/blur'
import { blurPlane, blurFootprint } from '../../kernels/blur'
import { variedBlur } from '../../kernels/varied-blur'

const profileOf = (kind: 'gaussian' | 'box', texels: number): BlurProfile =>
  kind === 'box' ? { kind, radius: texels } : { kind, sigma: texels }

/** Gaussian or box blur, wrapping. Sources and errors: kernels/blur.ts, kernels/varied-blur.ts. */
export default defineNode({
  type: 'blur',
  version: 2,
  family: 'filter',
  title: 'Blur',
  summary: 'Softens, evenly or by as much as another field says.',
  keywords: ['gaussian', 'soften', 'smooth', 'box', 'low-pass'],
  usualFor: ['grey'],
  params: {
    radius: number({
      default: 0.01,
      min: 0,
      max: 0.25,
      softRange: [0, 0.05],
      unit: 'tile',
      help: 'Standard deviation of the Gaussian, or half the width of the box.',
    }),
    kind: choice({ default: 'gaussian', options: ['gaussian', 'box'], help: 'A soft bell or a plain average.' }),
  },
  inputs: {
    source: any({ help: 'What is softened.' }),
    radiusBy: grey({ help: 'Multiplies the radius, 0 to 1.', whenUnconnected: null }),
  },
  outputs: { result: any({ help: 'The softened field.' }) },
  genericTypes: ['grey', 'colour', 'vector'],
  mixedAtSeams: true,
  footprint: ({ radius, kind }, { width, height }) => blurFootprint(profileOf(kind, radius * width), height),
  presets: [
    { title: 'Slight', keywords: ['soften'], params: { radius: 0.003 } },
    { title: 'Wide', keywords: ['haze'], params: { radius: 0.06 } },
  ],
  evaluate: ({ source, radiusBy }, { radius, kind }, { result }, { width, tileTexels, rows }) => {
    if (!result) return
    result.planes.forEach((target, p) => {
      const plane = source.planes[p]!
      if (radiusBy) variedBlur(source, plane, kind, radius * tileTexels, radiusBy, rows, result, target)
      else
        blurPlane(source, plane, profileOf(kind, radius * tileTexels), rows, (y, row) => {
          const start = rowStart(result, y)
          for (let x = 0; x < width; x++) target[start + x] = row[x]! + 0
        })
    })
  },
  example: {
    nodes: { cells: { type: 'cells', params: { cells: [6, 6] } } },
    inputs: { source: 'cells.value' },
    params: { radius: 0.03 },
  },
})
