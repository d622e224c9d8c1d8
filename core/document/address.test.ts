import fc from 'fast-check'
import type { GristError } from '../errors'
import type { Output } from './address'
import { formatOutput, formatPort, parseOutput, parsePort } from './address'

const id = fc.stringMatching(/^[A-Za-z][A-Za-z0-9_-]{0,20}$/)
const channel = id.filter((name) => name !== 'mask')
const output: fc.Arbitrary<Output> = fc.oneof(
  fc.record({ kind: fc.constant('channel' as const), channel: id }),
  fc.record({ kind: fc.constant('port' as const), node: id, port: id }),
  fc.record({ kind: fc.constant('tap' as const), tap: id }),
  fc.record({ kind: fc.constant('layer' as const), layer: id, channel }),
  fc.record({ kind: fc.constant('mask' as const), layer: id }),
  fc.record({ kind: fc.constant('cell' as const), layer: id, channel: id }),
  fc.record({ kind: fc.constant('entry' as const), layer: id, entry: fc.nat(999_999) }),
)

test('an output is read as it is written', () => {
  fc.assert(fc.property(output, (one) => expect(parseOutput(formatOutput(one))).toEqual(one)))
})

test('different outputs have different texts', () => {
  fc.assert(
    fc.property(output, output, (a, b) => {
      expect(formatOutput(a) === formatOutput(b)).toBe(JSON.stringify(sorted(a)) === JSON.stringify(sorted(b)))
    }),
  )
})
const sorted = (one: Output): unknown[] => Object.entries(one).sort(([a], [b]) => (a < b ? -1 : 1))

test('a port', () => {
  expect(parsePort('lay.distance')).toEqual({ node: 'lay', port: 'distance' })
  expect(parsePort('lay')).toEqual({ node: 'lay', port: '' })
  expect(formatPort({ node: 'lay', port: 'distance' })).toBe('lay.distance')
})

test.each([
  'layer:stone',
  'entry:stone:first',
  'entry:stone:-1',
  'cell::height',
  'tap:',
  'what:a:b',
  'cell:a:b:c',
  ':',
])('%s is no output', (text) => {
  let code = ''
  try {
    parseOutput(text)
  } catch (error) {
    code = (error as GristError).code
  }
  expect(code).toBe('reference-unknown')
})
