import { completeHex } from './hex'
import { factorOf, fitted, shownNumber, stepOf } from './numbers'

describe('one step of a number field', () => {
  it('is a hundredth of the usual range, as a power of ten', () => {
    expect(stepOf({ min: 0, max: 1 })).toBe(0.01)
    expect(stepOf({ min: 0, max: 0.25 })).toBeCloseTo(0.001, 12)
    expect(stepOf({ min: -1e6, max: 1e6, softRange: [0, 1] })).toBe(0.01)
    expect(stepOf({ min: 0, max: 100 })).toBe(1)
  })

  it('is one for whole numbers', () => expect(stepOf({ min: 0, max: 4294967295, whole: true })).toBe(1))

  it('is coarse with Shift, fine with Alt', () => {
    expect(factorOf({ shiftKey: true, altKey: false })).toBe(10)
    expect(factorOf({ shiftKey: false, altKey: true })).toBe(0.1)
    expect(factorOf({ shiftKey: false, altKey: false })).toBe(1)
  })
})

it('values stay in their range, whole where they must be, without the dust of fractions', () => {
  expect(fitted(1.7, { min: 0, max: 1 })).toBe(1)
  expect(fitted(-3, { min: 0, max: 1 })).toBe(0)
  expect(fitted(2.6, { min: 0, max: 9, whole: true })).toBe(3)
  expect(fitted(0.1 + 0.2, { min: 0, max: 1 })).toBe(0.3)
})

it('numbers are shown short', () => {
  expect(shownNumber(0.1 + 0.2)).toBe('0.3')
  expect(shownNumber(1 / 3)).toBe('0.3333')
  expect(shownNumber(1234.5678)).toBe('1234.57')
  expect(shownNumber(4)).toBe('4')
})

it.each([
  ['#AABBCC', '#aabbcc'],
  ['abc', '#aabbcc'],
  [' 778899 ', '#778899'],
  ['#12', null],
  ['red', null],
  ['#1234567', null],
])('%s as a colour is %s', (text, hex) => expect(completeHex(text)).toBe(hex))
