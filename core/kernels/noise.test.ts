import { ImprovedNoise } from 'three/examples/jsm/math/ImprovedNoise.js'
import { hash32, unitFloat } from '../random'
import { fractalNoise, latticeGradient, octaveSeed, quinticFade } from './noise'
import type { NoiseShape } from './noise'
import { allRows } from './rows'

/**
 * Noise at one place, written from the listing in K. Perlin, "Improving Noise", SIGGRAPH 2002: eight corners, `grad`
 * by bits of the hash, three nested lerps. The hash comes from outside, as the paper's table would.
 */
function perlin2002(x: number, y: number, z: number, hash: (i: number, j: number, k: number) => number): number {
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)]
  const [fx, fy, fz] = [x - i, y - j, z - k]
  const fade = (t: number) => t * t * t * (t * (t * 6 - 15) + 10)
  const lerp = (t: number, a: number, b: number) => a + t * (b - a)
  const grad = (h: number, gx: number, gy: number, gz: number) => {
    const u = h < 8 ? gx : gy
    const v = h < 4 ? gy : h === 12 || h === 14 ? gx : gz
    return ((h & 1) === 0 ? u : -u) + ((h & 2) === 0 ? v : -v)
  }
  const corner = (a: number, b: number, c: number) => grad(hash(i + a, j + b, k + c) & 15, fx - a, fy - b, fz - c)
  const [u, v, w] = [fade(fx), fade(fy), fade(fz)]
  const plane = (c: number) =>
    lerp(v, lerp(u, corner(0, 0, c), corner(1, 0, c)), lerp(u, corner(0, 1, c), corner(1, 1, c)))
  return lerp(w, plane(0), plane(1))
}

const wrap = (i: number, n: number) => ((i % n) + n) % n

/** The sum of octaves of NODES, built on the independent noise. */
function reference(shape: NoiseShape, seed: number, u: number, v: number): number {
  let sum = 0
  let total = 0
  for (let o = 0; o < shape.octaves; o++) {
    const scale = shape.lacunarity ** o
    const [cx, cy] = [shape.cells[0] * scale, shape.cells[1] * scale]
    const period = shape.depthPeriod * scale
    const lattice = octaveSeed(seed, o)
    const n = perlin2002(u * cx, v * cy, shape.depth * scale, (i, j, k) =>
      latticeGradient(lattice, wrap(i, cx), wrap(j, cy), wrap(k, period), shape.even),
    )
    const styled = shape.style === 'plain' ? n : shape.style === 'billow' ? 2 * Math.abs(n) - 1 : 1 - 2 * Math.abs(n)
    sum += shape.gain ** o * styled
    total += shape.gain ** o
  }
  return 0.5 + (0.5 * sum) / total
}

const evaluate = (shape: NoiseShape, width: number, height: number, seed = 3) => {
  const out = new Float32Array(width * height)
  fractalNoise(shape, seed, { width, height }, allRows(height), out, (y) => y * width)
  return out
}

const base: NoiseShape = {
  cells: [4, 3],
  octaves: 1,
  lacunarity: 2,
  gain: 0.5,
  style: 'plain',
  depth: 0,
  depthPeriod: 8,
  even: true,
}

test('the independent noise is Perlin 2002: three 0.187 ImprovedNoise gives the same with its own table', () => {
  // noise(3.14, 42, 7) = 0.136919958784 is the value published with the reference implementation.
  const theirs = new ImprovedNoise()
  expect(theirs.noise(3.14, 42, 7)).toBeCloseTo(0.136919958784, 12)
})

const shapes: [string, NoiseShape][] = [
  ['one octave', base],
  ['five octaves', { ...base, octaves: 5 }],
  ['billow', { ...base, style: 'billow', octaves: 3 }],
  ['ridged', { ...base, style: 'ridged', octaves: 3, gain: 0.7 }],
  ['a place in depth', { ...base, octaves: 3, depth: 2.35 }],
  ['below zero depth', { ...base, octaves: 2, depth: -1.25, depthPeriod: 3 }],
  ['lacunarity 3', { ...base, octaves: 3, lacunarity: 3 }],
  ['finer than texels', { ...base, cells: [90, 70], octaves: 2 }],
  ['uneven, as version 1 of the node', { ...base, octaves: 2, even: false }],
  ['uneven and finer than texels', { ...base, cells: [90, 70], even: false }],
]
test.each(shapes)('equals the independent noise: %s', (_, shape) => {
  const [w, h] = [61, 47]
  const out = evaluate(shape, w, h)
  let max = 0
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      max = Math.max(max, Math.abs(out[y * w + x]! - reference(shape, 3, (x + 0.5) / w, (y + 0.5) / h)))
  expect(max).toBeLessThan(2e-5)
})

test('is ½ where texel centres fall on lattice points', () => {
  // 5 texels a cell: the centre of texel 2 lies half a cell from the lattice; 1 cell a texel and half: choose cells so
  // that (x + ½)·cells/width is whole. width 3, cells 6 gives (x + ½)·2 = 1, 3, 5.
  const out = evaluate({ ...base, cells: [6, 6] }, 3, 3)
  for (const v of out) expect(v).toBe(0.5)
})

test('repeats in depth after its period', () => {
  const shape = { ...base, octaves: 3, depthPeriod: 5 }
  expect(evaluate({ ...shape, depth: 1.3 }, 32, 32)).toEqual(evaluate({ ...shape, depth: 6.3 }, 32, 32).map((v) => v))
})

test('quintic fade has the ends and slopes of the paper', () => {
  expect([0, 0.5, 1].map(quinticFade)).toEqual([0, 0.5, 1])
  // First and second derivatives vanish at both ends: near them the fade departs by the cube of the distance.
  for (const d of [0.1, 0.2, 0.3]) {
    expect(quinticFade(d) / d ** 3).toBeCloseTo(10 - 15 * d + 6 * d * d, 4)
    expect((1 - quinticFade(1 - d)) / d ** 3).toBeCloseTo(10 - 15 * d + 6 * d * d, 2)
  }
})

test.each([
  // χ² is below these with probability 0.999 (standard table), with one degree of freedom less than classes.
  [16, false, 37.7],
  [12, true, 31.3],
] as const)('the hash spreads: %i classes over a lattice pass a χ² test', (classes, even, max) => {
  const bins = new Array<number>(classes).fill(0)
  for (let y = 0; y < 128; y++) for (let x = 0; x < 128; x++) bins[latticeGradient(5, x, y, 0, even)]!++
  const expected = 16384 / classes
  expect(bins.reduce((sum, n) => sum + (n - expected) ** 2 / expected, 0)).toBeLessThan(max)
})

test('noise is as strong across as down: mean square steps over 48 seeds within 1.05 of each other', () => {
  // Steps of a field tell its power along an axis (Parseval). The uneven table gives 1.09 here.
  const ratio = (even: boolean): number => {
    let [across, down] = [0, 0]
    const n = 64
    for (let seed = 1; seed <= 48; seed++) {
      const out = new Float32Array(n * n)
      fractalNoise({ ...base, cells: [16, 16], even }, seed, { width: n, height: n }, allRows(n), out, (y) => y * n)
      for (let y = 0; y < n; y++)
        for (let x = 0; x < n; x++) {
          across += (out[y * n + ((x + 1) % n)]! - out[y * n + x]!) ** 2
          down += (out[((y + 1) % n) * n + x]! - out[y * n + x]!) ** 2
        }
    }
    return down / across
  }
  expect(Math.abs(ratio(true) - 1)).toBeLessThan(0.03)
  expect(ratio(false)).toBeGreaterThan(1.06)
})

test('pcg hash: the integer steps of the paper’s listing, done in BigInt', () => {
  const M = 0xffffffffn
  for (const v of [0, 1, 2, 12345, 0x7fffffff, 0xffffffff]) {
    const state = (BigInt(v) * 747796405n + 2891336453n) & M
    const word = (((state >> ((state >> 28n) + 4n)) ^ state) * 277803737n) & M
    expect(BigInt(hash32(v))).toBe((word >> 22n) ^ word)
  }
  expect(unitFloat(0xffffffff)).toBeLessThan(1)
})
