import { ENVIRONMENT } from './environments'
import type { Cube } from './prefilter'
import { prefiltered } from './prefilter'

describe.each(Object.entries(ENVIRONMENT))('%s', (_, { radiance, key }) => {
  const [{ texels }] = prefiltered(radiance, 32) as [Cube]

  it('is finite and never dark as nothing', () => {
    for (const v of texels) expect(v > 0 && v < 100).toBe(true)
  })

  it('is brighter above than below', () => {
    const face = texels.length / 6
    const light = (from: number): number => texels.subarray(from, from + face).reduce((sum, v) => sum + v, 0)
    expect(light(2 * face)).toBeGreaterThan(1.5 * light(3 * face))
  })

  it('has its key light above the horizon, of length one', () => {
    expect(Math.hypot(...key.towards)).toBeCloseTo(1, 12)
    expect(key.towards[1]).toBeGreaterThan(0.3)
  })
})

it('has a covered sky three times as bright at the zenith as at the horizon (CIE S 011)', () => {
  const { radiance } = ENVIRONMENT.overcast
  const [zenith] = radiance(0, 1, 0)
  const [low] = radiance(Math.sqrt(1 - 0.05 ** 2), 0.05, 0)
  // L(γ)/Lz = (1 + 2 sin γ)/3, from memory.
  expect(low / zenith).toBeCloseTo((1 + 2 * 0.05) / 3, 6)
})
