import { copyRows } from '../../field/field'
import { NEAREST } from '../../field/patches'
import { defineNode } from '../../graph/define-node'
import { any } from '../../graph/ports'
import { padRows } from '../../kernels/island-planes'

/**
 * What lies between the islands of a part, from the nearest texel that belongs to one: so that no renderer's filter and no mip level takes
 * in anything else. Distances are exact (core/mesh/padding.ts).
 */
export default defineNode({
  type: 'pad',
  version: 1,
  family: 'conversion',
  title: 'Padding',
  summary: 'Fills what lies between the islands of a part from the nearest island.',
  keywords: ['padding', 'dilate', 'edge bleed', 'gutter', 'margin'],
  params: {},
  inputs: { source: any({ help: 'What is padded.' }) },
  outputs: { result: any({ help: 'The same, with nothing left between islands.' }) },
  genericTypes: ['grey', 'colour', 'normal', 'vector'],
  readsIslands: 'nearest',
  tiles: false,
  footprint: 'whole',
  evaluate: ({ source }, _, { result }, { rows, patches }) => {
    if (!result) return
    const islands = patches?.get(NEAREST)
    rows.check()
    // Without a layout there is nothing to pad from.
    if (islands) padRows(source, islands, result, rows.from, rows.to)
    else copyRows(source, result, rows.from, rows.to)
  },
  example: { nodes: { ramp: { type: 'ramp' } }, inputs: { source: 'ramp.grey' } },
})
