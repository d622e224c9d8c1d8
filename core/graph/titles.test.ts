import { registry } from '../nodes/registry.generated'
import { portTitle, titleOf, typeTitle } from './titles'

test('identifiers become words; a title of its own goes first', () => {
  expect(titleOf('cropFrom')).toBe('Crop from')
  expect(titleOf('id')).toBe('ID')
  expect(titleOf('lowRatio', { title: 'Below' })).toBe('Below')
  expect(typeTitle('id')).toBe('ID')
})

test('every port and parameter of every node reads as words', () => {
  for (const node of registry.values()) {
    const titles = [
      ...Object.keys(node.inputs).map((port) => portTitle(node, 'inputs', port)),
      ...Object.keys(node.outputs).map((port) => portTitle(node, 'outputs', port)),
      ...Object.entries(node.params).map(([name, parameter]) => titleOf(name, parameter)),
    ]
    // One name on a form stands for one thing.
    const own = titles.slice(Object.keys(node.outputs).length + Object.keys(node.inputs).length)
    expect([node.type, new Set(own).size]).toEqual([node.type, own.length])
    for (const title of titles) expect([node.type, title]).toEqual([node.type, expect.stringMatching(/^[A-Z]/)])
  }
})
