import { documentOf } from '#core/testing/examples'
import { weightInWords } from './weight-words'

it.each([
  [
    { milliseconds: 3.25, change: { height: 12.4 / 255, normal: 0 } },
    { cost: '3.3 ms', change: '12/255', channel: 'height' },
  ],
  [
    { milliseconds: 31.6, change: { height: 0.44 / 255 } },
    { cost: '32 ms', change: '0.4/255', channel: 'height' },
  ],
  [
    { milliseconds: 0, change: { height: 1e-7 } },
    { cost: '0.0 ms', change: '< 0.1/255', channel: 'height' },
  ],
  [
    { milliseconds: 0, change: {} },
    { cost: '0.0 ms', change: 'no change', channel: null },
  ],
])('%j reads %j', (weight, words) => {
  expect(weightInWords(weight, documentOf({}))).toEqual(words)
})
