import type { TypedUnit } from './arithmetic'
import { calculate } from './arithmetic'

const value = (text: string, of?: TypedUnit): number | null => {
  const result = calculate(text, of)
  return 'value' in result ? result.value : null
}

it.each([
  ['0.5', 0.5],
  ['1/3', 1 / 3],
  [' 2 * (3 + 4) ', 14],
  ['-1 + 0.25', -0.75],
  ['0,5', 0.5],
  ['3×4÷2', 6],
  ['−2', -2],
  ['7 % 4', 3],
  ['50%', 0.5],
  ['50 % + 1', 1.5],
  ['(20 + 5)%', 0.25],
  ['2^10', 1024],
  ['2^3^2', 512],
  ['-2^2', -4],
  ['2**3', 8],
  ['3²', 9],
  ['pi', Math.PI],
  ['2*PI', 2 * Math.PI],
  ['sqrt(2)', Math.SQRT2],
  ['max(1, 2, 3)', 3],
  ['min(0,5, 2)', 0.5],
])('%s is %d', (text, number) => expect(value(text)).toBeCloseTo(number, 12))

it('units become the field’s own: lengths where metres or shares of a tile are, degrees where turns are', () => {
  expect(value('250cm', { unit: 'm' })).toBeCloseTo(2.5, 12)
  expect(value('0.3 m', { unit: 'm' })).toBeCloseTo(0.3, 12)
  expect(value('1 m + 20 mm', { unit: 'm' })).toBeCloseTo(1.02, 12)
  expect(value('40 cm', { unit: 'tile', tileMetres: 1.6 })).toBeCloseTo(0.25, 12)
  expect(value('0.25 tiles', { unit: 'tile', tileMetres: 1.6 })).toBe(0.25)
  expect(value('90°', { unit: 'turn' })).toBe(0.25)
  expect(value('(360/8) deg', { unit: 'turn' })).toBe(0.125)
})

it.each([
  ['', undefined, 'A number is missing.'],
  ['abc', undefined, '“abc” is not known; pi and sqrt( ) are.'],
  ['alert(1)', undefined, '“alert( )” is not known; sqrt( ), abs( ), min( ) and max( ) are.'],
  ['constructor(1)', undefined, '“constructor( )” is not known; sqrt( ), abs( ), min( ) and max( ) are.'],
  ['1/0', undefined, 'This has no value: a division by 0, or a root of less.'],
  ['sqrt(-1)', undefined, 'This has no value: a division by 0, or a root of less.'],
  ['2^', undefined, 'This is no number, nor a sum that gives one.'],
  ['30 cm', undefined, 'cm is a length; this is none.'],
  ['30 cm', { unit: 'tile', tileMetres: null }, 'cm is a length; this is none.'],
  ['45°', { unit: 'm' }, 'Degrees are for angles; this is none.'],
  ['3 turns', { unit: 'tile' }, 'This is not in turns.'],
] as const)('%s is refused in words', (text, of, reason) => expect(calculate(text, of)).toEqual({ reason }))

it.each(['window', '[1]', 'a.b', '1;2', '"3"', 'this'])('%s is no number', (text) => expect(value(text)).toBeNull())
