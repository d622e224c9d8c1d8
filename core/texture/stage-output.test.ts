import fc from 'fast-check'
import { formatStageOutput, isFileOutput, parseStageOutput, sameOutput } from './stage-output'

test('a file or slot is read as it is written, whatever its map is called', () => {
  fc.assert(
    fc.property(fc.string({ minLength: 1 }), fc.integer({ min: 0, max: 3 }), (map, slot) => {
      for (const output of [{ kind: 'file', map } as const, { kind: 'slot', map, slot } as const]) {
        expect(parseStageOutput(formatStageOutput(output))).toEqual(output)
        expect(isFileOutput(output)).toBe(true)
      }
    }),
  )
})

test('an output of the material is one too', () => {
  expect(parseStageOutput('cell:stone:height')).toEqual({ kind: 'cell', layer: 'stone', channel: 'height' })
  expect(isFileOutput(parseStageOutput('height'))).toBe(false)
  expect(isFileOutput(null)).toBe(false)
})

test('equal by what they say', () => {
  expect(sameOutput({ kind: 'file', map: 'a' }, { kind: 'file', map: 'a' })).toBe(true)
  expect(sameOutput({ kind: 'slot', map: 'a', slot: 1 }, { kind: 'slot', map: 'a', slot: 2 })).toBe(false)
  expect(sameOutput(null, { kind: 'channel', channel: 'height' })).toBe(false)
  expect(sameOutput(null, null)).toBe(true)
})
