import { produce } from 'immer'
import { documentOf, evaluateOutputs } from '#core/testing/examples'
import { parseDocument } from '../document'
import { duplicateNodes } from './copies'
import { frameNodes, framedNodes, unframeNodes } from './frames'
import { deleteNodes } from './nodes'
import { registry } from '#core/nodes/registry.generated'

const document = documentOf({
  nodes: { a: { type: 'noise' }, b: { type: 'blur', inputs: { source: 'a.grey' } }, c: { type: 'noise' } },
  layers: [{ kind: 'layer', id: 'l', name: 'l', cells: { height: { source: { node: 'b.result' } } } }],
})

it('nodes are framed, change frames, and a frame without nodes goes', () => {
  const framed = produce(document, (draft) => void frameNodes(draft, ['a', 'b'], 'Base'))
  expect(framedNodes(framed, 'frame')).toEqual(['a', 'b'])
  const moved = produce(framed, (draft) => void frameNodes(draft, ['b', 'c'], 'Other'))
  expect([framedNodes(moved, 'frame'), framedNodes(moved, 'frame-2')]).toEqual([['a'], ['b', 'c']])
  const left = produce(moved, (draft) => unframeNodes(draft, ['a']))
  expect(left.frames).toEqual({ 'frame-2': { name: 'Other' } })
  expect(parseDocument(JSON.parse(JSON.stringify(left)))).toEqual(left)
})

it('a node that is deleted leaves its frame, and a copy stands in it too', () => {
  const framed = produce(document, (draft) => void frameNodes(draft, ['a', 'c'], 'Base'))
  const copied = produce(framed, (draft) => void duplicateNodes(draft, ['c']))
  expect(framedNodes(copied, 'frame')).toHaveLength(3)
  const bare = produce(framed, (draft) => deleteNodes(draft, ['a', 'c'], registry))
  expect(bare.frames).toEqual({})
})

it('changes nothing that is computed', async () => {
  const framed = produce(document, (draft) => void frameNodes(draft, ['a', 'b'], 'Base'))
  const [plain, other] = await Promise.all([document, framed].map((one) => evaluateOutputs(one, ['height'], 16)))
  expect(other!.fields.get('height')!.planes).toEqual(plain!.fields.get('height')!.planes)
})
