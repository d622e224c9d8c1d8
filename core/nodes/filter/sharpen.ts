import { rowStart } from '../../field/field'
import { bounded } from '../../field/limits'
import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { any } from '../../graph/ports'
import { blurPlane, blurFootprint } from '../../kernels/blur'

const gaussian = (sigma: number) => ({ kind: 'gaussian', sigma }) as const

/** Source: unsharp masking, R. Gonzalez, R. Woods, "Digital Image Processing", section 3.6; the 3×3 is its Laplacian. */
export default defineNode({
  type: 'sharpen',
  version: 2,
  family: 'filter',
  title: 'Sharpen',
  summary: 'Adds back what a blur takes away.',
  keywords: ['unsharp mask', 'crisp', 'detail', 'laplacian'],
  params: {
    amount: number({
      default: 0.5,
      min: 0,
      max: 16,
      softRange: [0, 2],
      help: 'How much detail is added; 0 changes nothing.',
    }),
    radius: number({
      visibleWhen: { method: ['radius'] },
      default: 0.004,
      min: 0,
      max: 0.25,
      softRange: [0, 0.02],
      unit: 'tile',
      help: 'Size of the detail, for the method radius.',
    }),
    method: choice({
      default: 'radius',
      options: ['radius', 'neighbours'],
      help: 'By a radius, the same at every size; or against the four neighbouring texels, which depends on the size.',
    }),
  },
  inputs: { source: any({ help: 'What is sharpened.' }) },
  outputs: { result: any({ help: 'The sharpened field; it may go beyond the values it had.' }) },
  genericTypes: ['grey', 'colour'],
  encoded: () => true,
  mixedAtSeams: true,
  footprint: ({ radius, method }, { width, height }) =>
    method === 'neighbours' ? 1 : blurFootprint(gaussian(radius * width), height),
  presets: [
    { title: 'Crisp detail', keywords: ['clarity'], params: { amount: 0.8, radius: 0.002 } },
    { title: 'Local contrast', keywords: ['punch'], params: { amount: 0.4, radius: 0.03 } },
  ],
  evaluate: ({ source }, { amount, radius, method }, { result }, { width, tileTexels, rows }) => {
    if (!result) return
    result.planes.forEach((target, p) => {
      const plane = source.planes[p]!
      if (method === 'radius')
        return blurPlane(source, plane, gaussian(radius * tileTexels), rows, (y, row) => {
          const s = rowStart(source, y)
          const o = rowStart(result, y)
          for (let x = 0; x < width; x++) {
            const v = plane[s + x]!
            target[o + x] = bounded(Math.fround(v + amount * (v - row[x]!)))
          }
        })
      for (let y = rows.from; y < rows.to; y++) {
        rows.check()
        const [above, s, below] = [rowStart(source, y - 1), rowStart(source, y), rowStart(source, y + 1)]
        const o = rowStart(result, y)
        for (let x = 0; x < width; x++) {
          const v = plane[s + x]!
          const left = plane[s + (x === 0 ? width - 1 : x - 1)]!
          const right = plane[s + (x === width - 1 ? 0 : x + 1)]!
          const around = (left + right + plane[above + x]! + plane[below + x]!) / 4
          target[o + x] = bounded(Math.fround(v + amount * (v - around)))
        }
      }
    })
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [6, 6], octaves: 2 } } },
    inputs: { source: 'noise.grey' },
    params: { amount: 2, radius: 0.02 },
  },
})
