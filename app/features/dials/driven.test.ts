import type { MaterialDocument } from '#core/document/document'
import { registry } from '#core/nodes/registry.generated'
import { emptyDocument } from '../../session/testing/empty-document'
import { drivenSetting } from './driven'

const document = {
  ...emptyDocument(),
  layers: [{ kind: 'layer', id: 'base', name: 'Base', mask: [], amount: 1, cells: {} }] as MaterialDocument['layers'],
  nodes: { noise: { type: 'noise' }, hard: { type: 'threshold', name: 'Edge' }, tint: { type: 'adjust-colour' } },
}
const drive = { scale: 1, offset: 0 }

test('a driven setting is named as its field is, with what it takes', () => {
  expect(drivenSetting(document, { node: 'hard', field: 'level', ...drive })).toMatchObject({
    words: 'Level of Edge',
    min: registry.get('threshold')!.params.level!.min,
    max: registry.get('threshold')!.params.level!.max,
  })
  expect(drivenSetting(document, { node: 'noise', field: 'cells.1', ...drive }).words).toBe('Cells down of Noise')
  expect(drivenSetting(document, { layer: 'base', channel: 'roughness', field: 'value', ...drive })).toMatchObject({
    words: 'Base, roughness, value',
    min: 0,
    max: 1,
  })
  expect(drivenSetting(document, { node: 'gone', field: 'level', ...drive }).words).toBe('level of gone')
})
