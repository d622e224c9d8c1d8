import fc from 'fast-check'
import { applyDials } from '../apply-dials'
import { documentOf } from '../../testing/examples'
import { applyPreset, presetNow, randomiseDials, savePreset } from './presets'

const dial = (id: string, more: object) => ({ id, label: id, default: 0, value: 0, drives: [], ...more })
const board = () =>
  documentOf({
    dials: [
      dial('wear', { min: 0, max: 1, value: 0.25 }),
      dial('rows', { kind: 'whole', min: 2, max: 9, value: 4 }),
      dial('lay', { kind: 'choice', options: ['stack', 'brick'], default: 'stack', value: 'brick' }),
      dial('wet', { kind: 'switch', default: false, value: true }),
      dial('ink', { kind: 'colour', default: '#000000', value: '#336699' }),
      dial('roll', { kind: 'seed', value: 7 }),
      dial('free', { value: 3 }),
    ],
  })

it('a preset keeps all dials by name and brings them back; saved again it takes the values of now', () => {
  const document = board()
  const id = savePreset(document, 'Worn out')
  expect([id, presetNow(document)]).toEqual(['worn-out', 'worn-out'])
  const before = document.dials.map(({ value }) => value)
  document.dials[0]!.value = 0.9
  document.dials[2]!.value = 'stack'
  expect(presetNow(document)).toBeNull()
  applyPreset(document, id)
  expect(document.dials.map(({ value }) => value)).toEqual(before)
  document.dials[0]!.value = 1
  expect(savePreset(document, 'Worn out')).toBe('worn-out')
  expect(document.presets['worn-out']!.values.wear).toBe(1)
})

it('a preset is held to what dials take now', () => {
  const document = board()
  const id = savePreset(document, 'Old')
  Object.assign(document.presets[id]!.values, { wear: 7, rows: 3.4, lay: 'herringbone', wet: 'yes', gone: 1 })
  document.dials[0]!.value = 0
  applyPreset(document, id)
  expect(document.dials.map(({ value }) => value)).toEqual([1, 3, 'brick', true, '#336699', 7, 3])
})

it('what follows the project is turned by no preset and by no chance', () => {
  const document = board()
  for (const one of document.dials) one.shared = 'Of all'
  const id = savePreset(document, 'Now')
  document.dials[0]!.value = 0.75
  document.dials[4]!.value = '#ffffff'
  const before = document.dials.map(({ value }) => value)
  applyPreset(document, id)
  randomiseDials(document, () => 0.9)
  expect(document.dials.map(({ value }) => value)).toEqual(before)
})

it('dials at random stay within their ranges; colours, and what has no range, stay as they are', () => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: 0, max: 0.999999, noNaN: true }), { minLength: 9, maxLength: 9 }),
      (rolls) => {
        const document = board()
        let at = 0
        randomiseDials(document, () => rolls[at++ % rolls.length]!)
        // Throws where a value is none of its dial's.
        applyDials(document)
        expect(Number.isInteger(document.dials[1]!.value)).toBe(true)
        expect(document.dials.slice(4).map(({ id, value }) => (id === 'roll' ? 'rolled' : value))).toEqual([
          '#336699',
          'rolled',
          3,
        ])
      },
    ),
  )
})
