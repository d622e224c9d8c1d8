import fc from 'fast-check'
import { canonicalJson } from './hash'
import { sameJson, shared } from './same-json'

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

/** As it comes from a text: without −0, which JSON does not write. */
const json = fc.json().map((text) => JSON.parse(JSON.stringify(JSON.parse(text))) as unknown)

test('what is shared is equal to what came, and equal parts are the very same objects', () => {
  fc.assert(
    fc.property(json, json, fc.boolean(), (before, other, equal) => {
      const after = JSON.parse(JSON.stringify({ one: before, other: [other, equal ? before : other] })) as object
      const made = shared({ one: before, other: [other, before] }, after)
      expect(made).toEqual(after)
      expect(sameJson(made, after)).toBe(true)
      expect((made as { one: unknown }).one).toBe(before)
      if (equal) expect(shared(made, JSON.parse(JSON.stringify(made)))).toBe(made)
    }),
  )
})

test('a member less, a member more, and a list in place of an object are differences', () => {
  const before = { a: { b: 1 }, c: [1, 2] }
  const less = shared(before, { a: { b: 1 } })
  expect(less).toEqual({ a: { b: 1 } })
  expect(less.a).toBe(before.a)
  expect(shared(before, { ...before, d: 1 })).toEqual({ ...before, d: 1 })
  expect(shared({ a: [] }, { a: {} })).toEqual({ a: {} })
  expect(shared({ c: [1, 2] }, { c: [1] })).toEqual({ c: [1] })
})
