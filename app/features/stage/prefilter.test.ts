import { fromHalf } from '#core/texture/bytes/half'
import { halvesOf, prefiltered, roughnessOf } from './prefilter'

const EDGE = 32

it('leaves one light everywhere as it is', () => {
  for (const { texels } of prefiltered(() => [0.25, 1, 4], EDGE))
    for (let i = 0; i < texels.length; i += 3) {
      expect(Math.abs(texels[i]! - 0.25)).toBeLessThan(1e-6)
      expect(Math.abs(texels[i + 1]! - 1)).toBeLessThan(1e-6)
      expect(Math.abs(texels[i + 2]! - 4)).toBeLessThan(1e-5)
    }
})

it('keeps a mirror as it is: each face looks where OpenGL ES 3.0 (table 3.21) says', () => {
  const [mirror] = prefiltered((x, y, z) => [x, y, z], EDGE)
  const looks = [
    [1, 0, 0],
    [-1, 0, 0],
    [0, 1, 0],
    [0, -1, 0],
    [0, 0, 1],
    [0, 0, -1],
  ]
  looks.forEach((look, face) => {
    const middle = ((face * EDGE + EDGE / 2) * EDGE + EDGE / 2) * 3
    look.forEach((v, c) => expect(Math.abs(mirror!.texels[middle + c]! - v)).toBeLessThan(2 / EDGE))
  })
  // The first texel of +x: s and t are 0, so −z and −y are −1 across ma: up and to +z.
  const [x, y, z] = mirror!.texels
  expect(x! > 0 && y! > 0 && z! > 0).toBe(true)
})

/**
 * Light that grows with the height of its direction keeps doing so, less: a lobe that is round about the normal takes the mean
 * of the cosine to it. That mean, by Simpson's rule over D(h) · cos² and D(h) · cos, Walter et al. (2007) eq. 33.
 */
function kept(roughness: number): number {
  const narrow = roughness ** 4 - 1
  const sums = [0, 0]
  const steps = 20000
  for (let i = 0; i <= steps; i++) {
    const angle = ((i / steps) * Math.PI) / 2
    const simpson = i === 0 || i === steps ? 1 : i % 2 ? 4 : 2
    const spread = Math.cos(angle / 2) ** 2 * narrow + 1
    const weight = (simpson * Math.cos(angle) * Math.sin(angle)) / spread ** 2
    sums[0]! += weight * Math.cos(angle)
    sums[1]! += weight
  }
  return sums[0]! / sums[1]!
}

it.each([1, 2, 3, 4])('has at level %i what the lobe of its roughness sees', (level) => {
  const { texels, edge } = prefiltered((_, y) => [1 + y, 1 + y, 1 + y], EDGE)[level]!
  const expected = kept(roughnessOf(level))
  for (const face of [0, 2, 3, 5])
    for (let j = 0; j < edge; j++)
      for (let i = 0; i < edge; i++) {
        const across = (2 * i + 1) / edge - 1
        const down = (2 * j + 1) / edge - 1
        const up = { 0: -down, 2: 1, 3: -1, 5: -down }[face]! / Math.hypot(1, across, down)
        const v = texels[((face * edge + j) * edge + i) * 3]!
        expect(Math.abs(v - 1 - expected * up)).toBeLessThan(0.012)
      }
})

it('is a mirror at level 0 and matt at level 4: the mean of the cosine there is 2/3 (Lambert)', () => {
  expect(roughnessOf(0)).toBe(0)
  expect(roughnessOf(4)).toBe(1)
  expect(kept(1)).toBeCloseTo(2 / 3, 6)
})

it('is handed over as half floats, with nothing transparent', () => {
  const texels = Float32Array.from({ length: 18 }, (_, i) => i / 2)
  const faces = halvesOf({ edge: 1, texels })
  expect(faces.map((face) => [...face].map(fromHalf))[2]).toEqual([3, 3.5, 4, 1])
})
