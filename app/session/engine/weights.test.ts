import { documentOf } from '#core/testing/examples'
import type { NodeWeight } from '#core/material/weigh'
import { openWeights, unseenNodes } from './weights'

const document = documentOf({
  nodes: {
    hills: { type: 'noise' },
    soft: { type: 'blur', inputs: { source: 'hills.grey' } },
  },
  layers: [{ kind: 'layer', id: 'a', name: 'a', cells: { height: { source: { node: 'soft.result' } } } }],
})

/** A worker whose answers are given by hand. */
function worker() {
  const answers: ((weight: NodeWeight | { error: string; cancelled: boolean }) => void)[] = []
  const told: string[] = []
  return {
    answers,
    told,
    client: {
      beginWeighing: async () => void told.push('begin'),
      endWeighing: async () => void told.push('end'),
      weigh: (node: string) => {
        told.push(node)
        return new Promise<NodeWeight | { error: string; cancelled: boolean }>((resolve) => answers.push(resolve))
      },
    },
  }
}
const turn = () => new Promise<void>((resolve) => setImmediate(resolve))

it('measures node by node, and tells whose going nobody would see', async () => {
  const { client, answers, told } = worker()
  const weights = openWeights(client)
  const done = weights.measure(document, 64)
  await turn()
  expect([weights.store.getState().state, weights.store.getState().total]).toEqual(['measuring', 2])
  answers[0]!({ milliseconds: 2, change: { height: 0.2 } })
  await turn()
  answers[1]!({ milliseconds: 1, change: { height: 0.001, normal: 0.0019 } })
  await done
  expect(told).toEqual(['begin', 'hills', 'soft', 'end'])
  expect(weights.store.getState().state).toBe('done')
  expect(unseenNodes(weights.store.getState())).toEqual(['soft'])
})

it('gives up when it is cleared or fails, and lets go of what it held', async () => {
  const { client, answers, told } = worker()
  const weights = openWeights(client)
  const first = weights.measure(document, 64)
  await turn()
  weights.clear()
  answers[0]!({ milliseconds: 2, change: {} })
  await first
  expect(weights.store.getState()).toMatchObject({ state: 'none', byNode: {} })
  expect(told).toEqual(['begin', 'hills', 'end'])
  const second = weights.measure(document, 64)
  await turn()
  answers[1]!({ error: 'no memory', cancelled: false })
  await second
  expect(weights.store.getState()).toMatchObject({ state: 'failed', problem: 'no memory' })
  expect(told.at(-1)).toBe('end')
})
