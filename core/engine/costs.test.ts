import type { Step } from '../graph/graph'
import { registry } from '../nodes/registry.generated'
import { COSTS, costOf } from './costs'

const step = (type: string, uniform = false): Step => ({ node: registry.get(type)!, uniform }) as Step

it('names only nodes that are there, each with a cost', () => {
  for (const [type, cost] of Object.entries(COSTS)) {
    expect([type, registry.has(type)]).toEqual([type, true])
    expect(cost).toBeGreaterThan(0)
  }
})

it('takes the usual cost for the rest, and next to nothing for what is the same everywhere', () => {
  const [plain] = [...registry.keys()].filter((type) => !(type in COSTS))
  expect(costOf(step(plain!))).toBeGreaterThan(costOf(step('split')))
  for (const type of registry.keys()) expect(costOf(step(type, true))).toBeLessThan(0.1)
})

it('knows the slowest: distances cost more than occlusion, occlusion more than noise, noise more than a copy', () => {
  expect(costOf(step('distance'))).toBeGreaterThan(2 * costOf(step('height-to-occlusion')))
  expect(costOf(step('height-to-occlusion'))).toBeGreaterThan(2 * costOf(step('noise')))
  expect(costOf(step('noise'))).toBeGreaterThan(costOf(step('split')))
})
