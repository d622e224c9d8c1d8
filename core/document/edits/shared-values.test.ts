import { produce } from 'immer'
import { documentOf } from '#core/testing/examples'
import { applyDials } from '../apply-dials'
import { canFollow, followShared, followedNames, takeShared } from './shared-values'

const document = documentOf({
  nodes: { ramp: { type: 'noise', params: { gain: 0.5 } } },
  layers: [
    {
      kind: 'layer',
      id: 'a',
      name: 'a',
      cells: { colour: { source: { value: '#101010' } }, roughness: { source: { value: 0.9 } } },
    },
  ],
})
const lime = { name: 'Lime', value: '#e8e0d0' }
const wet = { name: 'Wet', value: 0.2 }

it('settings follow one dial a value, which is set as it is', () => {
  const next = produce(document, (draft) => {
    followShared(draft, lime, { kind: 'colour' }, { layer: 'a', channel: 'colour', field: 'value' })
    followShared(draft, wet, { kind: 'number', min: 0.1, max: 1 }, { layer: 'a', channel: 'roughness', field: 'value' })
    followShared(draft, wet, { kind: 'number', min: 0, max: 1 }, { node: 'ramp', field: 'gain' })
  })
  expect(next.dials.map(({ label, shared, drives }) => [label, shared, drives.length])).toEqual([
    ['Lime', 'Lime', 1],
    ['Wet', 'Wet', 2],
  ])
  expect(followedNames(next)).toEqual(['Lime', 'Wet'])
  const changed = produce(next, (draft) => {
    takeShared(draft, { name: 'Wet', value: 0.35 })
    takeShared(draft, { name: 'Lime', value: '#ffffff' })
    takeShared(draft, { name: 'Lime', value: 7 })
  })
  const applied = applyDials(changed)
  expect(applied.nodes.ramp!.params).toMatchObject({ gain: 0.35 })
  expect(applied.layers[0]).toMatchObject({
    cells: { colour: { source: { value: '#ffffff' } }, roughness: { source: { value: 0.35 } } },
  })
})

it('only what is of its kind can follow a value', () => {
  expect([
    canFollow({ kind: 'colour' }, lime),
    canFollow({ kind: 'number' }, lime),
    canFollow({ kind: 'choice' }, wet),
  ]).toEqual([true, false, false])
})
