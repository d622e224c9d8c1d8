import { bakers } from '#core/mesh/bakers/bakers.generated'
import { STANDARD_SETTINGS } from '#core/mesh/bake-settings'
import { bakedInWords } from './model-context'

/** A model whose parts have so many UV sets, of which nothing is baked; the set is chosen by its number. */
const stateOf = (uvSet: number, uvSets: readonly number[]): Parameters<typeof bakedInWords>[0] =>
  ({
    model: {
      summary: {
        parts: uvSets.map((count) => ({ layouts: Array.from({ length: count }, () => ({ tiles: [1001] })) })),
      },
      settings: { ...STANDARD_SETTINGS, uvSet },
      data: [],
    },
    runs: [],
    kinds: bakers.filter(({ name }) => name === 'position' || name === 'occlusion'),
  }) as unknown as Parameters<typeof bakedInWords>[0]

test.each([
  [0, [1], '○ 2 to bake'],
  [0, [1, 1], '○ 4 to bake'],
  [0, [0], '■ nothing can be baked: no UVs'],
  [0, [0, 1], '○ 2 to bake; 1 part without UVs'],
  [1, [1], '■ nothing can be baked: no UV set 2'],
  [1, [1, 2], '○ 2 to bake; 1 part without UV set 2'],
])('with set %i chosen, of parts with %j UV sets it says “%s”', (uvSet, uvSets, words) => {
  expect(bakedInWords(stateOf(uvSet, uvSets))).toBe(words)
})
