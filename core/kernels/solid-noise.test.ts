import { randomNumbers } from '../testing/random-values'
import { octaveSeed } from './noise'
import type { SolidNoiseShape } from './solid-noise'
import { fractalSolidNoise, solidNoise } from './solid-noise'

const SEED = 12345
/** The gradient of the noise at a lattice point, by differences: the quintic has no slope and no bend there. */
function gradientAt(i: number, j: number, k: number): [number, number, number] {
  const h = 1e-4
  const along = (x: number, y: number, z: number) =>
    (solidNoise(SEED, i + x, j + y, k + z) - solidNoise(SEED, i - x, j - y, k - z)) / (2 * h)
  return [along(h, 0, 0), along(0, h, 0), along(0, 0, h)]
}

describe('noise in space, by K. Perlin, "Improving Noise", SIGGRAPH 2002', () => {
  test('it is 0 at lattice points, and its gradients there are the twelve to the edges of a cube', () => {
    const found = new Set<string>()
    for (let i = -3; i < 4; i++)
      for (let j = -3; j < 4; j++)
        for (let k = -3; k < 4; k++) {
          expect(solidNoise(SEED, i, j, k)).toBeCloseTo(0, 12)
          const gradient = gradientAt(i, j, k).map((v) => Math.round(v) + 0)
          gradientAt(i, j, k).forEach((v, axis) => expect(v).toBeCloseTo(gradient[axis]!, 3))
          found.add(gradient.join())
        }
    expect(found.size).toBe(12)
    for (const one of found) expect(one.split(',').filter((v) => v === '0')).toHaveLength(1)
  })

  test('between them it is their ramps, mixed by the quintic fade', () => {
    const random = randomNumbers(3)
    const fade = (t: number) => 6 * t ** 5 - 15 * t ** 4 + 10 * t ** 3
    for (let n = 0; n < 60; n++) {
      const place = [random() * 6 - 3, random() * 6 - 3, random() * 6 - 3]
      const cell = place.map(Math.floor)
      const within = place.map((v, axis) => v - cell[axis]!)
      let sum = 0
      for (let corner = 0; corner < 8; corner++) {
        const step = [corner & 1, (corner >> 1) & 1, corner >> 2]
        const gradient = gradientAt(...(cell.map((v, axis) => v + step[axis]!) as [number, number, number])).map(
          Math.round,
        )
        const weight = within.reduce((w, t, axis) => w * (step[axis] ? fade(t) : 1 - fade(t)), 1)
        sum += weight * gradient.reduce((ramp, g, axis) => ramp + g * (within[axis]! - step[axis]!), 0)
      }
      expect(solidNoise(SEED, place[0]!, place[1]!, place[2]!)).toBeCloseTo(sum, 9)
    }
  })

  test('it favours neither side nor axis, and octaves have nothing to do with each other', () => {
    const random = randomNumbers(5)
    const [one, two] = [octaveSeed(SEED, 0), octaveSeed(SEED, 1)]
    const COUNT = 20000
    let [sum, square, product] = [0, 0, 0]
    const slopes = [0, 0, 0]
    for (let n = 0; n < COUNT; n++) {
      const [x, y, z] = [random() * 200, random() * 200, random() * 200]
      const [v, other] = [solidNoise(one, x, y, z), solidNoise(two, x, y, z)]
      sum += v
      square += v * v
      product += v * other
      const h = 1e-3
      slopes[0]! += (solidNoise(one, x + h, y, z) - v) ** 2
      slopes[1]! += (solidNoise(one, x, y + h, z) - v) ** 2
      slopes[2]! += (solidNoise(one, x, y, z + h) - v) ** 2
    }
    // Four deviations of what chance leaves.
    const deviation = Math.sqrt(square / COUNT)
    expect(Math.abs(sum / COUNT)).toBeLessThan((4 * deviation) / Math.sqrt(COUNT))
    expect(Math.abs(product / square)).toBeLessThan(4 / Math.sqrt(COUNT))
    for (const slope of slopes) expect(slope / slopes[0]!).toBeCloseTo(1, 1)
  })
})

describe('octaves of it', () => {
  const shape = (octaves: number, style: SolidNoiseShape['style'] = 'plain'): SolidNoiseShape => ({
    ...{ octaves, lacunarity: 2, gain: 0.5, style },
  })
  const places = Array.from({ length: 50 }, (_, i) => [i * 0.37, 2 - i * 0.21, i * 0.11] as const)

  test('are each finer and weaker by lacunarity and gain, about ½', () => {
    for (const [x, y, z] of places) {
      const each = [0, 1, 2].map((o) => solidNoise(octaveSeed(SEED, o), x * 2 ** o, y * 2 ** o, z * 2 ** o))
      const expected = 0.5 + (0.5 * (each[0]! + each[1]! / 2 + each[2]! / 4)) / 1.75
      expect(fractalSolidNoise(shape(3), SEED, x, y, z)).toBeCloseTo(expected, 12)
    }
  })

  test('ridges are billows upside down', () => {
    for (const [x, y, z] of places) {
      const billow = fractalSolidNoise(shape(4, 'billow'), SEED, x, y, z)
      expect(fractalSolidNoise(shape(4, 'ridged'), SEED, x, y, z)).toBeCloseTo(1 - billow, 12)
    }
    // Billows are dark where the noise is 0.
    expect(fractalSolidNoise(shape(1, 'billow'), SEED, 1, 2, 3)).toBe(0)
  })

  test('so far out that numbers have no fractions, they are finite', () => {
    for (const far of [1e9, 1e30, Infinity, -Infinity])
      expect(Number.isFinite(fractalSolidNoise(shape(3), SEED, far, 0.5, -far))).toBe(true)
  })
})
