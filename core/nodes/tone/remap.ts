import { defineNode } from '../../graph/define-node'
import { number, toggle } from '../../graph/parameters'
import { any } from '../../graph/ports'
import { mapValues } from '../../kernels/point'
import { remapValues } from '../../kernels/values'

const range = { min: -1000, max: 1000, softRange: [0, 1] as const }

/** One range of values laid onto another by a straight line. Source: own derivation. */
export default defineNode({
  type: 'remap',
  version: 1,
  family: 'tone',
  title: 'Remap',
  summary: 'Lays one range of values onto another.',
  keywords: ['range', 'fit', 'scale', 'normalise', 'linear'],
  params: {
    fromLow: number({ ...range, default: 0, title: 'From low', help: 'The value that becomes “to low”.' }),
    fromHigh: number({ ...range, default: 1, title: 'From high', help: 'The value that becomes “to high”.' }),
    toLow: number({ ...range, default: 0, title: 'To low', help: 'What “from low” becomes.' }),
    toHigh: number({ ...range, default: 1, title: 'To high', help: 'What “from high” becomes.' }),
    clamp: toggle({ default: false, help: 'Holds values beyond the range at its ends.' }),
  },
  inputs: { source: any({ help: 'What is laid onto another range.' }) },
  outputs: { result: any({ help: 'The values in their new range.' }) },
  genericTypes: ['grey', 'colour', 'vector'],
  footprint: 'point',
  evaluate: ({ source }, { fromLow, fromHigh, toLow, toHigh, clamp }, { result }, { rows }) => {
    if (!result) return
    const width = fromHigh - fromLow
    const span = toHigh - toLow
    // Where the range is empty it is a step at its place.
    if (width === 0) mapValues(source, result, rows, (v) => toLow + span * (v >= fromLow ? 1 : 0))
    else remapValues(source, result, rows, { from: fromLow, width, to: toLow, span, clamp })
  },
  example: {
    nodes: { noise: { type: 'noise', params: { cells: [5, 5] } } },
    inputs: { source: 'noise.grey' },
    params: { fromLow: 0.3, fromHigh: 0.7, toLow: 1, toHigh: 0.2 },
  },
})
