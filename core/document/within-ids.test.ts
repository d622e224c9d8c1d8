import { EXAMPLE_PART } from '../graph/example-part'
import { registry } from '../nodes/registry.generated'
import { documentOf, evaluateOutputs } from '../testing/examples'
import type { PickedIds } from '../picked-ids'
import { withinIds } from './within-ids'

const WIDTH = 32
const layer = (id: string) => ({
  ...{ kind: 'layer', id, name: id },
  cells: { colour: { source: { value: '#c02010' } } },
})
const opacityOf = async (document: ReturnType<typeof documentOf>): Promise<number[]> => {
  const { fields } = await evaluateOutputs(document, ['opacity', 'ids.mask'], WIDTH, { node: registry.get('id-mask')! })
  const [opacity, mask] = ['opacity', 'ids.mask'].map((name) => [...fields.get(name)!.planes[0]!])
  expect(new Set(mask)).toEqual(new Set([0, 1]))
  return opacity!.map((value, i) => value - mask![i]!)
}

test('a material within IDs is cut out elsewhere, and one outside of them there', async () => {
  const picked: PickedIds = { kind: 'island-id', numbers: [2] }
  // Names that are taken stay with whom they belong to.
  const taken = {
    within: { type: 'constant', params: {} },
    ids: { type: 'id-mask', params: { kind: 'island-id', ids: [2] } },
  }
  const document = documentOf({
    ...{ domain: { kind: 'part', on: EXAMPLE_PART }, nodes: taken },
    layers: [{ kind: 'group', id: 'all', name: 'All', layers: [layer('within'), layer('within-2')] }],
  })
  const inside = withinIds(document, picked)
  expect(inside.surface.opacity).toBe('cut-out')
  expect(new Set(await opacityOf(inside))).toEqual(new Set([0]))
  const outside = await opacityOf(withinIds(document, picked, false))
  expect(new Set(outside)).toEqual(new Set([1, -1]))
  const blended = { ...document, surface: { ...document.surface, opacity: 'blended' as const } }
  expect(withinIds(blended, picked).surface.opacity).toBe('blended')
})
