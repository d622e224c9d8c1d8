import fc from 'fast-check'
import type { Field } from '../field/field'
import { createField, uniformField } from '../field/field'
import { BLEND_MODES } from './blend'
import { blendFields } from './blend-fields'
import { blurPlane } from './blur'
import { horizonOcclusion } from './horizon'
import { fractalNoise } from './noise'
import { allRows } from './rows'
import { simd, withoutSimd } from './simd'
import { srgbField } from './srgb'

/** Numbers that are all over the place: dark and bright, negative, huge, zeros of both signs, next to the bounds of modes. */
const EDGES = [0, -0, 1, 0.5, 0.25, 1e-30, -1e-30, 1e30, -1e30, 1 + 2 ** -23, 0.5 + 2 ** -24]
function filled(field: Field, seed: number): Field {
  let state = seed | 1
  const next = (): number => {
    state = Math.imul(state, 48271) >>> 0
    return state / 2 ** 32
  }
  for (const plane of field.planes)
    for (let i = 0; i < plane.length; i++)
      plane[i] = next() < 0.2 ? EDGES[Math.floor(next() * EDGES.length)]! : next() * 3 - 1
  return field
}
const bits = (plane: Float32Array): number[] => [...new Uint32Array(plane.buffer, plane.byteOffset, plane.length)]
const bitsOf = (field: Field): number[][] => field.planes.map(bits)

/** Widths with and without a rest of 16 and of 4; the twins leave those without whole vectors to the definitions. */
const widths = fc.constantFrom(4, 8, 12, 20, 48, 63, 64, 68, 132)

test('the twins run here', () => expect(simd()).not.toBeNull())

test('blend: every mode gives the bits of its definition, with uniform fields, masks and amounts, over bands', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...BLEND_MODES),
      widths,
      fc.constantFrom('grey', 'colour' as const),
      fc.integer(),
      fc.constantFrom(0, Math.fround(0.3), Math.fround(0.7), 1),
      fc.boolean(),
      fc.boolean(),
      (mode, width, type, seed, amount, masked, uniform) => {
        const height = 7
        const base = filled(createField(type, width, height), seed)
        const source = uniform
          ? uniformField(type, width, height, [0.4, 0.9, 0.1])
          : filled(createField(type, width, height), seed + 1)
        const mask = masked ? filled(createField('grey', width, height), seed + 2) : null
        const made = [2, 7].map((to) => {
          const rows = allRows(to, to === 2 ? 0 : 2)
          const out = createField(type, width, height)
          blendFields(base, source, mask, out, rows, mode, amount)
          const expected = createField(type, width, height)
          withoutSimd(() => blendFields(base, source, mask, expected, rows, mode, amount))
          return [bitsOf(out), bitsOf(expected)]
        })
        for (const [ours, expected] of made) expect(ours).toEqual(expected)
      },
    ),
    { numRuns: 400 },
  )
})

test('sRGB: the bits of their definitions', () => {
  fc.assert(
    fc.property(widths, fc.integer(), fc.constantFrom('encode', 'decode' as const), (width, seed, kind) => {
      const source = filled(createField('colour', width, 9), seed)
      const run = (): number[][] => {
        const out = createField('colour', width, 9)
        srgbField(source, out, allRows(9), kind)
        return bitsOf(out)
      }
      expect(run()).toEqual(withoutSimd(run))
    }),
    { numRuns: 200 },
  )
  // Every exponent, with all kinds of last places.
  const all = createField('grey', 256 * 16, 1)
  new Uint32Array(all.planes[0]!.buffer).forEach(
    (_, i, words) => (words[i] = ((i >> 4) << 23) | (Math.imul(i, 0x9e3779b1) >>> 9)),
  )
  for (const kind of ['encode', 'decode'] as const) {
    const run = (): number[][] => {
      const out = createField('grey', 256 * 16, 1)
      srgbField(all, out, allRows(1), kind)
      return bitsOf(out)
    }
    expect(run()).toEqual(withoutSimd(run))
  }
})

test('Gaussian: the bits of its definition, whatever the sigma, wrapping at each border', () => {
  fc.assert(
    fc.property(
      widths,
      fc.integer({ min: 1, max: 40 }),
      fc.double({ min: 0.1, max: 16, noNaN: true }),
      fc.integer(),
      (width, height, sigma, seed) => {
        const source = filled(createField('grey', width, height), seed)
        const run = (): number[][] => {
          const rows: number[][] = []
          blurPlane(
            source,
            source.planes[0]!,
            { kind: 'gaussian', sigma },
            allRows(height),
            (y, row) => (rows[y] = bits(row.slice())),
          )
          return rows
        }
        expect(run()).toEqual(withoutSimd(run))
      },
    ),
    { numRuns: 150 },
  )
})

test('Gaussian on coarse values: the bits of its definition, over any rows', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(64, 96, 128, 256),
      fc.constantFrom(32, 64, 96, 128),
      fc.double({ min: 16.1, max: 70, noNaN: true }),
      fc.integer(),
      fc.nat(),
      (width, height, sigma, seed, from) => {
        const source = filled(createField('grey', width, height), seed)
        const run = (): number[][] => {
          const rows: number[][] = []
          blurPlane(
            source,
            source.planes[0]!,
            { kind: 'gaussian', sigma },
            allRows(height, from % height),
            (y, row) => (rows[y] = bits(row.slice())),
          )
          return rows
        }
        expect(run()).toEqual(withoutSimd(run))
      },
    ),
    { numRuns: 60 },
  )
})

test('occlusion: the bits of its definition, whatever the radius, over any rows', () => {
  fc.assert(
    fc.property(
      widths,
      fc.integer({ min: 1, max: 40 }),
      fc.double({ min: 0.5, max: 90, noNaN: true }),
      fc.double({ min: 0.01, max: 300, noNaN: true }),
      fc.integer(),
      fc.nat(),
      (width, height, radius, rise, seed, from) => {
        const heights = filled(createField('grey', width, height), seed)
        const run = (): number[][] => {
          const out = createField('grey', width, height)
          horizonOcclusion(heights, out, allRows(height, from % height), rise, radius, 1.3)
          return bitsOf(out)
        }
        expect(run()).toEqual(withoutSimd(run))
      },
    ),
    { numRuns: 150 },
  )
})

test('noise: the bits of its definition, whatever the lattice, depth and style', () => {
  fc.assert(
    fc.property(
      widths,
      fc.integer({ min: 1, max: 30 }),
      fc.record({
        cells: fc.tuple(fc.integer({ min: 1, max: 40 }), fc.integer({ min: 1, max: 40 })),
        octaves: fc.integer({ min: 1, max: 5 }),
        lacunarity: fc.integer({ min: 2, max: 4 }),
        gain: fc.constantFrom(0, Math.fround(0.37), 0.5, 1),
        style: fc.constantFrom('plain', 'billow', 'ridged' as const),
        depth: fc.constantFrom(0, 0.3, -2.75),
        depthPeriod: fc.integer({ min: 1, max: 5 }),
        even: fc.boolean(),
      }),
      fc.integer(),
      fc.nat(),
      (width, height, shape, seed, from) => {
        const run = (): number[] => {
          const out = new Float32Array(width * height)
          fractalNoise(shape, seed, { width, height }, allRows(height, from % height), out, (y) => y * width)
          return bits(out)
        }
        expect(run()).toEqual(withoutSimd(run))
      },
    ),
    { numRuns: 200 },
  )
})

test('work that is cancelled leaves scratch memory as it was', () => {
  const twin = simd()!
  const free = (): number => twin.scratch(() => twin.take(1))
  const before = free()
  const heights = filled(createField('grey', 64, 2048), 5)
  let checks = 0
  const rows = {
    from: 0,
    to: 2048,
    check: () => {
      if (++checks > 2) throw new Error('enough')
    },
  }
  expect(() => horizonOcclusion(heights, createField('grey', 64, 2048), rows, 10, 8, 1)).toThrow('enough')
  expect(checks).toBe(3)
  expect(free()).toBe(before)
})
