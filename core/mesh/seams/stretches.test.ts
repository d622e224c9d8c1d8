import fc from 'fast-check'
import { inStretches } from './stretches'

const COLUMNS = 8
const places = fc.array(
  fc.record({
    texel: fc.integer({ min: 0, max: 5 * COLUMNS - 1 }),
    weight: fc.double({ min: 0.01, max: 2e4, noNaN: true }),
  }),
  { maxLength: 60 },
)

test.each(['in turn', 'at once'] as const)(
  'texels beside several seams, gone over %s, end as the mean of them all by their weights',
  (how) => {
    fc.assert(
      fc.property(places, (all) => {
        const { stretches, ratios } = inStretches(
          Uint32Array.from(all, ({ texel }) => texel),
          Float32Array.from(all, ({ weight }) => weight),
          { columns: COLUMNS, size: 5 * COLUMNS },
          how,
        )
        const others = all.map((_, i) => Math.cos(i))
        const own = Float64Array.from({ length: 5 * COLUMNS }, (_, i) => Math.sin(i))
        const made = own.slice()
        for (let s = 0; s < stretches.length; s += 3)
          for (let k = 0; k < stretches[s + 2]!; k++) {
            const [texel, number] = [stretches[s]! + k, stretches[s + 1]! + k]
            expect(texel).toBe(all[number]!.texel)
            const before = how === 'in turn' ? made : own
            made[texel] = made[texel]! + ratios[number]! * (others[number]! - before[texel]!)
          }
        const seen = [...stretches].filter((_, i) => i % 3 === 2).reduce((sum, length) => sum + length, 0)
        expect(seen).toBe(all.length)
        own.forEach((value, texel) => {
          let [sum, weights] = [value, 1]
          all.forEach((one, i) => {
            if (one.texel !== texel) return
            sum += (one.weight * (value + others[i]!)) / 2
            weights += one.weight
          })
          expect(made[texel]).toBeCloseTo(sum / weights, 4)
        })
      }),
    )
  },
)

test('stretches come in the order of their first texels, and none goes on in the next row', () => {
  const texels = Uint32Array.of(14, 15, 16, 17, 3, 4, 5, 9)
  const { stretches } = inStretches(texels, new Float32Array(8).fill(1), { columns: COLUMNS, size: 40 }, 'in turn')
  expect([...stretches]).toEqual([3, 4, 3, 9, 7, 1, 14, 0, 2, 16, 2, 2])
})
