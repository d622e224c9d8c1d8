import { documentOf } from '#core/testing/examples'
import { findLayer, findPlain } from './edits/layers'
import { hasOwn, ownSettings, withOwnLayer, withOwnSettings } from './own-settings'

const document = documentOf({
  layers: [
    { kind: 'layer', id: 'a', name: 'a', cells: { colour: { source: { value: '#404040' } } } },
    { kind: 'layer', id: 'b', name: 'b', off: true, amount: 0.5, cells: { roughness: { source: { value: 0.2 } } } },
  ],
  dials: [{ id: 'd', label: 'D', min: 0, max: 1, default: 0, value: 0, drives: [] }],
  presets: { worn: { name: 'Worn', values: { d: 0.75 } } },
})

it('writes what is another way, and nothing where nothing is', () => {
  expect(withOwnSettings(document, ownSettings.parse({}))).toBe(document)
  const own = ownSettings.parse({
    preset: 'worn',
    layers: {
      a: { off: true, blends: { colour: 'multiply', height: 'add' } },
      b: { off: false, amount: 1 },
      gone: { off: true },
    },
  })
  const made = withOwnSettings(document, own)
  expect(findLayer(made, 'a')).toMatchObject({ off: true, amount: 1 })
  expect(findPlain(made, 'a')!.cells).toMatchObject({ colour: { blend: 'multiply' } })
  expect(findPlain(made, 'a')!.cells.height).toBeUndefined()
  expect(findLayer(made, 'b')).not.toHaveProperty('off')
  expect(findLayer(made, 'b')!.amount).toBe(1)
  expect([made.name, made.dials[0]!.value]).toEqual([`${document.name}, Worn`, 0.75])
  // The material itself stays.
  expect(findLayer(document, 'a')!.off).toBeUndefined()
})

it('a setting that is taken back is no member any more', () => {
  const one = withOwnLayer(ownSettings.parse({}), 'a', { amount: 0.5 })
  const two = withOwnLayer(one, 'a', { off: true })
  expect([two.layers, hasOwn(two)]).toEqual([{ a: { amount: 0.5, off: true } }, true])
  const back = withOwnLayer(withOwnLayer(two, 'a', { off: undefined }), 'a', { amount: undefined })
  expect([back.layers, hasOwn(back)]).toEqual([{}, false])
})

it('refuses what is no blend and no amount', () => {
  expect(ownSettings.safeParse({ layers: { a: { amount: 2 } } }).success).toBe(false)
  expect(ownSettings.safeParse({ layers: { a: { blends: { colour: 'strange' } } } }).success).toBe(false)
})
