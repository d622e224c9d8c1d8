import { defineNode } from '../../graph/define-node'
import { choice, number } from '../../graph/parameters'
import { grey, normal } from '../../graph/ports'
import { NORMAL_METHODS, combineNormalFields } from '../../kernels/normals'

/** Detail normals on base normals. Source: C. Barré-Brisebois, S. Hill, "Blending in Detail", 2012. */
export default defineNode({
  type: 'combine-normals',
  version: 1,
  family: 'surface',
  title: 'Combine normals',
  summary: 'Lays detail normals onto base normals so that both keep their slopes.',
  keywords: ['normal blend', 'reoriented', 'whiteout', 'detail normal'],
  usualFor: ['normal'],
  params: {
    method: choice({
      default: 'reoriented',
      options: NORMAL_METHODS,
      help: 'reoriented follows the base truly; whiteout and add are cheaper habits; replace takes the detail alone.',
    }),
    amount: number({ default: 1, min: 0, max: 1, help: 'How much of the result shows.' }),
  },
  inputs: {
    base: normal({ help: 'What lies below.' }),
    detail: normal({ help: 'What is laid onto it.' }),
    mask: grey({ help: 'Where it shows.', whenUnconnected: null }),
  },
  outputs: { result: normal({ help: 'Both together, of unit length.' }) },
  footprint: 'point',
  evaluate: ({ base, detail, mask }, { method, amount }, { result }, { rows }) => {
    if (result) combineNormalFields(base, detail, mask, result, rows, method, Math.fround(amount))
  },
  example: {
    nodes: {
      large: { type: 'noise', params: { cells: [3, 3], octaves: 1 } },
      small: { type: 'noise', params: { cells: [9, 9], octaves: 1 } },
      a: { type: 'height-to-normal', params: { strength: 4 }, inputs: { height: 'large.grey' } },
      b: { type: 'height-to-normal', params: { strength: 1 }, inputs: { height: 'small.grey' } },
    },
    inputs: { base: 'a.normal', detail: 'b.normal' },
  },
})
