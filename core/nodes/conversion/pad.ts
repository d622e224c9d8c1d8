import { copyRows, rowStart } from '../../field/field'
import { NEAREST } from '../../field/patches'
import { defineNode } from '../../graph/define-node'
import { any } from '../../graph/ports'

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
  evaluate: ({ source }, _, { result }, { height, rows, patches }) => {
    if (!result) return
    const nearest = patches?.get(NEAREST)?.nearest
    // Without a layout, or where nothing lies in this tile, there is nothing to pad from.
    if (!nearest || nearest[0] === -1) return copyRows(source, result, rows.from, rows.to)
    copyRows(source, result, rows.from, rows.to)
    if (source.stride === 0) return
    for (let y = rows.from; y < rows.to; y++) {
      rows.check()
      const row = (((y % height) + height) % height) * result.width
      const at = rowStart(result, y)
      for (let p = 0; p < source.planes.length; p++) {
        const plane = source.planes[p]!
        const out = result.planes[p]!
        for (let x = 0; x < result.width; x++) {
          const from = nearest[row + x]!
          if (from !== row + x) out[at + x] = plane[from]!
        }
      }
    }
  },
  example: { nodes: { ramp: { type: 'ramp' } }, inputs: { source: 'ramp.grey' } },
})
