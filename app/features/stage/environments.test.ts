import { ENVIRONMENT, equirect } from './environments'

describe.each(Object.entries(ENVIRONMENT))('%s', (_, { radiance, key }) => {
  const { width, height, texels } = equirect(radiance, 64)

  it('is finite and never dark as nothing', () => {
    for (const v of texels) expect(v > 0 && v < 100).toBe(true)
  })

  it('is brighter above than below', () => {
    const mean = (from: number, to: number): number => {
      let sum = 0
      for (let j = from; j < to; j++) for (let i = 0; i < width; i++) sum += texels[(j * width + i) * 4 + 1]!
      return sum / ((to - from) * width)
    }
    expect(mean(height / 2, height)).toBeGreaterThan(1.5 * mean(0, height / 2))
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
