import { documentOf } from '#core/testing/examples'
import { allOutputs, keyOfSource, nodesAndTaps, outputInWords, sourceInWords, sourceOfKey } from './source-words'

const document = documentOf({
  nodes: { hills: { type: 'noise', name: 'Hills' }, cells: { type: 'cells' }, gone: { type: 'not-there' } },
  taps: { worn: { node: 'hills.grey' } },
})

it('outputs go by their node, with the port where there are several', () => {
  expect(outputInWords(document, { node: 'hills', port: 'grey' })).toBe('Hills')
  expect(outputInWords(document, { node: 'cells', port: 'border' })).toBe('Cells: border')
  expect(outputInWords(document, { node: 'nowhere', port: 'grey' })).toBe('nowhere')
  expect(allOutputs(document)).toContain('cells.id')
  expect(allOutputs(document).some((address) => address.startsWith('gone'))).toBe(false)
})

it('every kind of source is a choice and comes back from it', () => {
  for (const source of [{ node: 'hills.grey' }, { tap: 'worn' }, { backdrop: 'colour' }, { value: 0.5 }])
    expect(sourceOfKey(keyOfSource(source), 0.5)).toEqual(source)
  expect(keyOfSource({ value: '#112233' })).toBe('value')
})

it('every kind of source has words', () => {
  expect(sourceInWords(document, { value: 0.4 })).toBe('value 0.4')
  expect(sourceInWords(document, { node: 'cells.gap' })).toBe('Cells: gap')
  expect(sourceInWords(document, { tap: 'worn' })).toBe('tap worn')
  expect(sourceInWords(document, { backdrop: 'height' })).toBe('below: height')
  expect(nodesAndTaps(document, ['hills.grey'])).toEqual([
    { value: 'node:hills.grey', word: 'Hills' },
    { value: 'tap:worn', word: 'tap worn' },
  ])
})
