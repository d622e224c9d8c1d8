import type { Parameter } from './parameters'
import {
  channels,
  choice,
  colourParameter,
  curve,
  image,
  integer,
  isRelevant,
  number,
  pair,
  seed,
  stops,
  toggle,
} from './parameters'

const help = 'For tests.'
const stop = (at: number, colour = '#000000') => ({ at, colour })
const point = (at: number, to = 0) => ({ at, to })

/** What each kind takes, and what it refuses: what a hand-written document may hold. */
const KINDS: Record<string, { parameter: Parameter; accepts: unknown[]; refuses: unknown[] }> = {
  number: {
    parameter: number({ default: 0, min: -1, max: 2, help }),
    accepts: [-1, 0, 0.1, 2],
    refuses: [-1.0001, 2.0001, NaN, Infinity, '1', null, [1], undefined],
  },
  integer: {
    parameter: integer({ default: 1, min: 1, max: 8, help }),
    accepts: [1, 8],
    refuses: [0, 9, 1.5, '2'],
  },
  pair: {
    parameter: pair({ default: [1, 1], min: 0, max: 4, help }),
    accepts: [
      [0, 4],
      [0.5, 0.5],
    ],
    refuses: [[1], [1, 2, 3], [1, 5], 1, ['1', 2], { 0: 1, 1: 2 }],
  },
  'pair of whole numbers': {
    parameter: pair({ default: [1, 1], min: 1, max: 4, whole: true, help }),
    accepts: [[1, 4]],
    refuses: [[1.5, 2]],
  },
  channels: {
    parameter: channels({ default: 0, min: 0, max: 1, help }),
    accepts: [0.5, [0, 0.5, 1]],
    refuses: [[0, 1], [0, 0, 2], -1, '0'],
  },
  choice: {
    parameter: choice({ default: 'a', options: ['a', 'b'], help }),
    accepts: ['a', 'b'],
    refuses: ['A', 'c', '', 0, null],
  },
  toggle: { parameter: toggle({ default: true, help }), accepts: [true, false], refuses: [0, 1, 'true', null] },
  colour: {
    parameter: colourParameter({ default: '#000000', help }),
    accepts: ['#0a0B0c', '#ffffff'],
    refuses: ['#fff', 'red', '#1234567', '#12345g', 0x112233],
  },
  stops: {
    parameter: stops({ default: [stop(0)], help }),
    accepts: [[stop(0.5)], [stop(0), stop(0), stop(1)], Array.from({ length: 64 }, (_, i) => stop(i / 63))],
    refuses: [
      [],
      [stop(0.6), stop(0.5)],
      [stop(1.1)],
      [stop(0, 'red')],
      [{ ...stop(0), more: 1 }],
      Array.from({ length: 65 }, (_, i) => stop(i / 64)),
    ],
  },
  curve: {
    parameter: curve({ default: [point(0), point(1, 1)], help }),
    accepts: [[point(0.2, 1), point(0.3)], Array.from({ length: 32 }, (_, i) => point(i / 31))],
    refuses: [
      [point(0)],
      [point(0), point(0)],
      [point(0.5), point(0.4)],
      [point(0), point(1, 1.5)],
      Array.from({ length: 33 }, (_, i) => point(i / 32)),
    ],
  },
  image: {
    parameter: image({ help }),
    accepts: ['', 'images/a.png', 'a'.repeat(1024)],
    refuses: ['a'.repeat(1025), 1],
  },
  seed: { parameter: seed(), accepts: [0, 4294967295], refuses: [-1, 4294967296, 0.5] },
}

describe.each(Object.entries(KINDS))('%s', (_, { parameter, accepts, refuses }) => {
  it('has a default that it takes itself', () => {
    expect(parameter.schema.parse(parameter.default)).toEqual(parameter.default)
  })
  it('takes what it should, unchanged', () => {
    for (const value of accepts) expect(parameter.schema.parse(value)).toEqual(value)
  })
  it('refuses all else', () => {
    for (const value of refuses) expect([value, parameter.schema.safeParse(value).success]).toEqual([value, false])
  })
})

it('a parameter matters while each choice it hangs on is one of its words', () => {
  const gap = number({ default: 0, min: 0, max: 1, help, visibleWhen: { kind: ['brick', 'tile'], way: ['out'] } })
  expect(isRelevant(gap, { kind: 'tile', way: 'out' })).toBe(true)
  expect(isRelevant(gap, { kind: 'tile', way: 'in' })).toBe(false)
  expect(isRelevant(gap, { kind: 'plank', way: 'out' })).toBe(false)
  expect(isRelevant(gap, { way: 'out' })).toBe(false)
  expect(isRelevant(seed(), {})).toBe(true)
})
