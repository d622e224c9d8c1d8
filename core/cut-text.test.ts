import fc from 'fast-check'
import { cutText, cutTextEnd } from './cut-text'

test('cuts of any text are whole characters, at most as long as asked, and as long as they can be', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), fc.integer({ min: 0, max: 30 }), (text, units) => {
      for (const [cut, fits] of [
        [cutText(text, units), text.startsWith(cutText(text, units))],
        [cutTextEnd(text, units), text.endsWith(cutTextEnd(text, units))],
      ] as const) {
        expect(cut.isWellFormed()).toBe(true)
        expect(fits && cut.length <= units).toBe(true)
        expect(cut.length).toBeGreaterThanOrEqual(Math.min(text.length, units) - 1)
      }
    }),
  )
})

test('a name of 60 units that ends in the middle of a sign loses that sign', () => {
  expect(cutText(`${'a'.repeat(59)}🧱`, 60)).toBe('a'.repeat(59))
  expect(cutTextEnd(`🧱${'a'.repeat(59)}`, 60)).toBe('a'.repeat(59))
})
