import { produce } from 'immer'
import { registry } from '../../nodes/registry.generated'
import { documentOf } from '../../testing/examples'
import { findPlain } from './layers'
import { deleteNodes } from './nodes'
import { moveOperation, operationsOf } from './operations'

const place = { layer: 'tone', channel: 'colour' }
const start = documentOf({
  nodes: {
    noise: { type: 'noise' },
    one: { type: 'levels', inputs: { source: { backdrop: 'colour' } } },
    // Mixed with something made: the chain is what comes from below.
    two: { type: 'blend', inputs: { source: 'one.result', base: 'noise.grey' } },
    three: { type: 'invert', inputs: { source: 'two.result' } },
  },
  layers: [
    {
      kind: 'correction',
      id: 'tone',
      name: 'Tone',
      cells: { colour: { source: { node: 'three.result' } } },
    },
  ],
})

const chain = (document: typeof start) => {
  const { start: from, list } = operationsOf(document, registry, place)
  return [JSON.stringify(from), ...list.map(({ node, input }) => `${input}>${node}`)]
}

it('the operations of a correction lead from what lies below to its cell', () => {
  expect(chain(start)).toEqual(['{"backdrop":"colour"}', 'source>one', 'source>two', 'source>three'])
  expect(operationsOf(start, registry, { layer: 'tone', channel: 'height' })).toEqual({ start: null, list: [] })
})

it.each([
  [0, 2, ['two', 'three', 'one']],
  [2, 0, ['three', 'one', 'two']],
  [1, 0, ['two', 'one', 'three']],
])('the one at %i moves to %i', (from, to, order) => {
  const moved = produce(start, (draft) => moveOperation(draft, registry, place, from, to))
  expect(chain(moved)).toEqual(['{"backdrop":"colour"}', ...order.map((node) => `source>${node}`)])
  // What is beside the chain stays.
  expect(moved.nodes.two!.inputs!.base).toBe('noise.grey')
})

it('one that is deleted closes the gap; the last one leaves what lies below', () => {
  const without = produce(start, (draft) => deleteNodes(draft, ['one'], registry, (source) => 'backdrop' in source))
  expect(chain(without)).toEqual(['{"backdrop":"colour"}', 'source>two', 'source>three'])
  const none = produce(start, (draft) => {
    deleteNodes(draft, ['two'], registry, (source) => !('node' in source && source.node === 'noise.grey'))
    deleteNodes(draft, ['one'], registry)
    deleteNodes(draft, ['three'], registry)
  })
  expect(findPlain(none, 'tone')!.cells.colour!.source).toEqual({ backdrop: 'colour' })
})
