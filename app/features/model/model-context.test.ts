import { bakers } from '#core/mesh/bakers/bakers.generated'
import { STANDARD_SETTINGS } from '#core/mesh/bake-settings'
import { bakedInWords } from './model-context'

/** A model whose parts have so many UV sets, of which nothing is baked. */
const stateOf = (...uvSets: number[]): Parameters<typeof bakedInWords>[0] =>
  ({
    model: {
      summary: {
        parts: uvSets.map((count) => ({ layouts: Array.from({ length: count }, () => ({ tiles: [1001] })) })),
      },
      settings: STANDARD_SETTINGS,
      data: [],
    },
    runs: [],
    kinds: bakers.filter(({ name }) => name === 'position' || name === 'occlusion'),
  }) as unknown as Parameters<typeof bakedInWords>[0]

test.each([
  [[1], '○ 2 to bake'],
  [[1, 1], '○ 4 to bake'],
  [[0], '■ nothing can be baked: no UVs'],
  [[0, 1], '○ 2 to bake; 1 part without UVs'],
])('of parts with %j UV sets it says “%s”', (uvSets, words) => {
  expect(bakedInWords(stateOf(...uvSets))).toBe(words)
})
