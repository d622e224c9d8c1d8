import { parseOutput } from '#core/document/address'
import { addMaskEntry } from '#core/document/edits/layers'
import { documentOf } from '#core/testing/examples'
import { materialHere } from '#core/testing/material-here'
import { READY_MASKS } from './ready-masks'

/** Every ready mask, over a dome: finished as it is added, and neither black nor white all over. */
const dome = () =>
  documentOf({
    heightMetres: 0.3,
    nodes: {
      dome: { type: 'spots', params: { cells: [2, 2], density: 1, size: [1, 1], softness: 1 } },
      tint: {
        type: 'gradient-remap',
        params: {
          stops: [
            { at: 0, colour: '#202020' },
            { at: 1, colour: '#7a6f5a' },
          ],
        },
        inputs: { source: 'dome.grey' },
      },
    },
    layers: [
      {
        kind: 'layer',
        id: 'base',
        name: 'Base',
        cells: { height: { source: { node: 'dome.grey' } }, colour: { source: { node: 'tint.result' } } },
      },
      { kind: 'layer', id: 'wear', name: 'Wear', cells: { roughness: { source: { value: 1 } } } },
    ],
  })

it.each(READY_MASKS.map((ready) => [ready.word, ready] as const))('%s', async (_, { build }) => {
  const document = dome()
  addMaskEntry(document, 'wear', build(document))
  const { fields, faults } = await materialHere(document).evaluatePartial({
    outputs: ['layer:wear:mask', 'roughness'].map(parseOutput),
    width: 64,
  })
  expect(faults.size).toBe(0)
  const mask = fields.get('layer:wear:mask')!.planes[0]!
  const mean = mask.reduce((sum, v) => sum + v, 0) / mask.length
  expect(mean).toBeGreaterThan(0.02)
  expect(mean).toBeLessThan(0.98)
  expect(Math.max(...mask) - Math.min(...mask)).toBeGreaterThan(0.5)
})
