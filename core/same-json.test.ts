import fc from 'fast-check'
import { canonicalJson } from './hash'
import { sameJson } from './same-json'

test('agrees with the canonical text, for any two values', () => {
  fc.assert(
    fc.property(fc.jsonValue({ maxDepth: 3 }), fc.jsonValue({ maxDepth: 3 }), (a, b) => {
      expect(sameJson(a, structuredClone(a))).toBe(true)
      expect(sameJson(a, b)).toBe(canonicalJson(a) === canonicalJson(b))
      expect(sameJson([a, { k: b }], [a, { k: b, absent: undefined }])).toBe(true)
    }),
    { seed: 5, numRuns: 500 },
  )
})

test('an absent member is not null, a list no record', () => {
  expect([sameJson(undefined, null), sameJson({ a: null }, {}), sameJson([], {})]).toEqual([false, false, false])
})
