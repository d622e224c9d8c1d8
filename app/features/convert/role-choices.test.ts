import { channelsMadeOf } from '#core/document/document-of-set'
import type { MapSetFile } from '../../contracts/map-set'
import { APART, NOTHING, PAIRS, greyOf, wholeOf, withGrey, withWhole } from './role-choices'

const file = (channels: 1 | 2 | 3 | 4, slots: MapSetFile['slots'] = []) =>
  ({ channels, slots, transfer: 'raw', float: false }) as const

test.each(['colour', 'emission', 'specular', 'normal-up', 'normal-down', ...PAIRS.map(({ value }) => value)])(
  '%s is said and read again',
  (choice) => expect(wholeOf(withWhole(file(3), choice))).toBe(choice),
)

test('a file of two channels holds two channels of normals, or a grey', () => {
  const pair = { ...file(2), ...withWhole(file(2), 'normal-pair-down') }
  expect([pair.slots.length, wholeOf(pair)]).toEqual([2, 'normal-pair-down'])
  expect(withGrey({ ...pair, slots: [] }, 0, 'height').slots).toHaveLength(1)
})

test('colours are sRGB-encoded, normals and greys are not', () => {
  expect(withWhole(file(3), 'colour').transfer).toBe('srgb')
  expect(withWhole({ ...file(3), float: true }, 'colour').transfer).toBe('raw')
  expect(withWhole(file(3), 'normal-up').transfer).toBe('raw')
})

test('planes hold a grey each; gloss is roughness inverted; alpha stays', () => {
  const packed = { ...file(4), ...withGrey(file(4), 1, 'gloss') }
  expect(packed.slots.map((slot) => greyOf(slot))).toEqual([NOTHING, 'gloss', NOTHING])
  const both = { ...file(4), ...withGrey(packed, 3, 'opacity') }
  expect(both.slots.map((slot) => greyOf(slot))).toEqual([NOTHING, 'gloss', NOTHING, 'opacity'])
  expect(withWhole(both, 'colour').slots.map(({ channel }) => channel)).toEqual([
    'colour',
    'colour',
    'colour',
    'opacity',
  ])
  expect(withWhole(both, APART).slots).toHaveLength(4)
  // One grey each begins with nothing, and is not the same as not used.
  const apart = { ...file(3), ...withWhole(file(3), APART) }
  expect(wholeOf(apart)).toBe(APART)
  expect(withGrey(apart, 0, 'roughness').slots.map((slot) => greyOf(slot))).toEqual(['roughness', NOTHING, NOTHING])
  expect(withGrey({ ...file(1), ...withGrey(file(1), 0, 'height') }, 0, NOTHING).slots).toEqual([])
  expect(wholeOf(packed)).toBe(APART)
})

test('what a file goes into depends on the set: specular colours lead to base colour and metal', () => {
  const colour = withWhole(file(3), 'colour')
  const specular = withWhole(file(3), 'specular')
  expect(channelsMadeOf(colour, [colour]).has('metallic')).toBe(false)
  expect(channelsMadeOf(colour, [colour, specular]).has('metallic')).toBe(true)
  const height = withGrey(file(1), 0, 'height')
  expect(channelsMadeOf(height, [height]).has('normal')).toBe(true)
  expect(channelsMadeOf(height, [height, withWhole(file(3), 'normal-up')]).has('normal')).toBe(false)
})
