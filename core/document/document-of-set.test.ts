import type { SetFile } from './document-of-set'
import { channelsMadeOf, documentOfSet, needsModel } from './document-of-set'

const three = (channel: string) => [0, 1, 2].map((component) => ({ channel, component, inverted: false }))
const file = (channel: string): SetFile => ({ image: `${channel}.png`, transfer: 'raw', slots: three(channel) })
const standard = { name: 'Set', metres: [1, 1], workflow: 'metal-rough' } as const

test('normals of a model’s space become tangent ones on a part, over what is baked of it or alone, and none on a tile', () => {
  const files = [file('object-normal'), file('colour')]
  expect(needsModel(files)).toBe(true)
  const of = (what: 'tile' | 'part-alone' | 'part') => documentOfSet(files, { ...standard, of: what })
  const [layer] = of('part').layers
  expect(of('part').domain).toEqual({ kind: 'part' })
  expect(layer).toMatchObject({ cells: { normal: { source: { node: 'tangent.result' } } } })
  expect(of('part').nodes.tangent!.inputs).toEqual({ normal: 'file1.colour', base: 'baked.normal' })
  expect(of('part-alone').nodes.tangent!.inputs).toEqual({ normal: 'file1.colour' })
  expect(Object.keys(of('tile').nodes)).not.toContain('tangent')
  const made = (isOnPart: boolean) => [...channelsMadeOf(files[0]!, files, { isOnPart })]
  expect([made(true), made(false)]).toEqual([['normal', 'object-normal'], []])
})

test('beside tangent normals those of a model’s space are not taken', () => {
  const files = [file('object-normal'), file('normal')]
  expect(needsModel(files)).toBe(false)
  const { nodes, layers } = documentOfSet(files, { ...standard, of: 'part' })
  expect(Object.keys(nodes)).toEqual(['file1', 'file2'])
  expect(layers[0]).toMatchObject({ cells: { normal: { source: { node: 'file2.colour' } } } })
  expect([...channelsMadeOf(files[0]!, files, { isOnPart: true })]).toEqual([])
  expect([...channelsMadeOf(files[1]!, files, { isOnPart: true })]).toEqual(['normal', 'object-normal'])
})
