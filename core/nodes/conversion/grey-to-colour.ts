import { rowStart } from '../../field/field'
import { defineNode } from '../../graph/define-node'
import { colour, grey } from '../../graph/ports'

/** One plane into three. */
export default defineNode({
  type: 'grey-to-colour',
  version: 1,
  family: 'conversion',
  title: 'Grey to colour',
  summary: 'The same value in red, green and blue.',
  keywords: [],
  params: {},
  inputs: { source: grey({ help: 'What is converted.' }) },
  outputs: { result: colour({ help: 'The converted field.' }) },
  footprint: 'point',
  evaluate: ({ source }, _, { result }, { rows }) => {
    if (!result) return
    const [values] = source.planes
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const from = rowStart(source, y)
      const row = values!.subarray(from, from + result.width)
      for (const plane of result.planes) plane.set(row, rowStart(result, y))
    }
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [4, 4] } } },
    inputs: { source: 'noise.grey' },
  },
})
