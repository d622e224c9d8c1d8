import { CHANNELS } from '../document/channels'
import { fieldOf } from '../testing/fields'
import { MipChain, toksvigRoughness } from './mip-chain'

const channel = (id: string) => CHANNELS.find((one) => one.id === id)!

test('means of 2 × 2 texels, whatever the bands; sides that are odd lose their last texel, and one stays one', () => {
  const field = fieldOf('grey', 6, 5, (x, y) => x + 10 * y)
  const levels = [
    [0, 5],
    [0, 2, 2, 4, 4, 5],
  ].map((bands) => {
    const chain = new MipChain(6, 5, [channel('height')], { keepsCoverage: false })
    for (let i = 0; i < bands.length; i += 2)
      chain.add(new Map([['height', field]]), bands[i]!, bands[i + 1]! - bands[i]!)
    return [...chain.levels({ roughens: false })].map(({ width, height, fields }) => [
      width,
      height,
      ...fields.get('height')!.planes[0]!,
    ])
  })
  expect(levels[0]).toEqual([
    [3, 2, 5.5, 7.5, 9.5, 25.5, 27.5, 29.5],
    [1, 1, (5.5 + 7.5 + 25.5 + 27.5) / 4],
  ])
  expect(levels[1]).toEqual(levels[0])
})

test('cut-outs show as much of a thin pattern at every level as at the first', () => {
  const n = 128
  // Blades two texels wide, every sixteen: means alone would let them vanish at the second level.
  const blades = fieldOf('grey', n, n, (x) => (x % 16 < 2 ? 1 : 0))
  const ratios = (keepsCoverage: boolean): number[] => {
    const chain = new MipChain(n, n, [channel('opacity')], { keepsCoverage })
    chain.add(new Map([['opacity', blades]]), 0, n)
    return [...chain.levels({ roughens: false })].slice(0, 3).map(({ fields }) => {
      const values = fields.get('opacity')!.planes[0]!
      return values.filter((v) => v >= 0.5).length / values.length
    })
  }
  expect(ratios(false)[2]).toBe(0)
  for (const ratio of ratios(true)) expect(ratio).toBeGreaterThanOrEqual(0.12)
})

test('roughness grows by the length that normals lose: as by hand for the exponent 2/α² − 2', () => {
  for (const roughness of [0.1, 0.3, 0.7, 1]) expect(toksvigRoughness(roughness, 1)).toBeCloseTo(roughness, 6)
  // α = 0.25, exponent 30; a length of 0.9 gives 0.9 / (0.9 + 30 · 0.1) = 0.23077, an exponent of 6.9231 and α = 0.47343.
  expect(toksvigRoughness(0.5, 0.9)).toBeCloseTo(Math.sqrt(Math.sqrt(2 / (30 * (0.9 / 3.9) + 2))), 9)
  const n = 16
  // Slopes to the left and to the right by turns: their mean is upright and shorter.
  const tilted = fieldOf('normal', n, n, (x, _, plane) => [x % 2 ? 0.6 : -0.6, 0, 0.8][plane]!)
  const rough = fieldOf('grey', n, n, () => 0.3)
  const chain = new MipChain(n, n, [channel('normal'), channel('roughness')], { keepsCoverage: false })
  chain.add(
    new Map([
      ['normal', tilted],
      ['roughness', rough],
    ]),
    0,
    n,
  )
  const [first] = chain.levels({ roughens: true })
  expect(first!.fields.get('normal')!.planes.map((plane) => plane[0])).toEqual([0, 0, 1])
  expect(first!.fields.get('roughness')!.planes[0]![0]).toBeCloseTo(toksvigRoughness(0.3, 0.8), 6)
  const [plain] = chain.levels({ roughens: false })
  expect(plain!.fields.get('roughness')!.planes[0]![0]).toBeCloseTo(0.3, 6)
})
