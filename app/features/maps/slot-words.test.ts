import { CHANNELS } from '#core/document/channels'
import type { SlotPlan } from '#core/texture/packing'
import { formInWords, planesOf, slotInWords, slotWord } from './slot-words'

const take = (channel: string, component = 0, invert = false): SlotPlan => ({ channel, component, invert })

test.each<[SlotPlan, string, string]>([
  [take('roughness', 0, true), 'rough', 'Roughness, inverted'],
  [take('colour', 1), 'colour g', 'Base colour, green'],
  [take('normal', 2), 'z', 'Normal, z'],
  [{ constant: 0.25 }, '0.25', 'constant 0.25'],
  [{ follows: { map: 'occlusion', slot: 3 } }, 'as occlusion A', 'the same as occlusion A'],
  // A channel that this material does not have keeps its id.
  [take('wear'), 'wear', 'wear'],
])('%j reads "%s", in full "%s"', (slot, short, full) => {
  expect([slotWord(slot, CHANNELS), slotInWords(slot, CHANNELS)]).toEqual([short, full])
})

test('how a file is written', () => {
  const file = { format: 'png', bits: 8, transfer: 'srgb', slots: [take('colour')] }
  expect(formInWords(file, true)).toBe('PNG 8-bit, sRGB, dithered')
  expect(formInWords({ ...file, bits: 16, transfer: 'raw' }, true)).toBe('PNG 16-bit, raw')
  expect(formInWords({ ...file, format: 'exr', bits: 16, slots: [take('height')] }, true)).toBe('EXR half, metres')
  expect(formInWords({ ...file, format: 'exr', bits: 32 }, false)).toBe('EXR float, linear')
})

test('every plane of every channel is there to choose', () => {
  const planes = planesOf(CHANNELS)
  expect(planes).toHaveLength(CHANNELS.reduce((sum, { type }) => sum + (type === 'grey' ? 1 : 3), 0))
  expect(new Set(planes.map(({ value }) => value)).size).toBe(planes.length)
})

test('files with normals are never dithered, and do not say so', () => {
  const png = { format: 'png', bits: 8, transfer: 'raw' }
  expect(formInWords({ ...png, slots: [take('normal'), take('normal', 1), take('normal', 2)] }, true)).toBe(
    'PNG 8-bit, raw',
  )
  expect(formInWords({ ...png, slots: [take('roughness')] }, true)).toBe('PNG 8-bit, raw, dithered')
})
