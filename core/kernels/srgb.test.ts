import { decodedTexel, encodedTexel } from './srgb'

/** IEC 61966-2-1, 5.2, with the platform's power. */
const decode = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
const encode = (v: number): number => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055)
const KINDS = [
  ['decode', decodedTexel, decode],
  ['encode', encodedTexel, encode],
] as const

test.each(KINDS)(
  '%s is within 5e-7 of the standard from 0 to 1, rises, and is exact at both ends',
  (_, ours, theirs) => {
    let before = -1
    let worst = 0
    let falls = 0
    for (let i = 0; i <= 200_000; i++) {
      const v = Math.fround(i / 200_000)
      const y = ours(v)
      worst = Math.max(worst, Math.abs(y - theirs(v)))
      if (y < before) falls++
      before = y
    }
    expect(worst).toBeLessThan(5e-7)
    expect(worst).toBeGreaterThan(1e-8)
    expect(falls).toBe(0)
    expect([ours(0), ours(1)]).toEqual([0, 1])
  },
)

test.each(KINDS)('%s follows the curve over all exponents above 1, and mirrors it below 0', (_, ours, theirs) => {
  for (let exponent = -126; exponent < 60; exponent++)
    for (const mantissa of [1, 1.1, 1.3, 1.62, 1.999]) {
      const v = Math.fround(mantissa * 2 ** exponent)
      const expected = theirs(v)
      // Fields hold 1e18 at most.
      if (expected < 1e30) expect(Math.abs(ours(v) / expected - 1)).toBeLessThan(2e-6)
      expect(ours(-v)).toBe(-ours(v))
    }
})

test('every 16-bit code comes back', () => {
  const lost: number[] = []
  for (let code = 0; code < 65536; code++)
    if (Math.round(encodedTexel(decodedTexel(Math.fround(code / 65535))) * 65535) !== code) lost.push(code)
  expect(lost).toEqual([])
})
