import fc from 'fast-check'
import type { Field } from '../field/field'
import { BOND_NAMES } from '../kernels/bonds/bonds'
import { tilingTurn } from '../kernels/placement'
import { SHAPES } from '../kernels/shapes'
import { documentOf, evaluateOutputs } from '../testing/examples'

/*
 * Every legal parameter tiles. A signed distance never changes faster than the way that is gone, so no step from texel
 * to texel, those across the border among them, may be longer than a texel. Where there is no such law, the mean step
 * over the border is held against those inside.
 */
const WIDTH = 40
const unit = fc.double({ min: 0, max: 1, noNaN: true })
const between = (min: number, max: number) => fc.double({ min, max, noNaN: true })
const heights = fc.constantFrom(1, 0.5, 1.5, 2)

async function evaluate(type: string, params: Record<string, unknown>, port: string, height: number): Promise<Field> {
  const document = documentOf({
    domain: { kind: 'tile', metres: [1, height] },
    nodes: { one: { type, params } },
  })
  const { fields } = await evaluateOutputs(document, [`one.${port}`], WIDTH)
  return fields.get(`one.${port}`)!
}

/** Steps to the right and down from every texel, wrapping. */
function steps(field: Field): { across: number[]; down: number[]; largest: number } {
  const { width, height } = field
  const plane = field.planes[0]!
  const across = Array<number>(width).fill(0)
  const down = Array<number>(height).fill(0)
  let largest = 0
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const here = plane[y * width + x]!
      const right = Math.abs(plane[y * width + ((x + 1) % width)]! - here)
      const below = Math.abs(plane[((y + 1) % height) * width + x]! - here)
      across[x]! += right / height
      down[y]! += below / width
      largest = Math.max(largest, right, below)
    }
  return { across, down, largest }
}

const expectLaw = (field: Field): void => expect(steps(field).largest).toBeLessThan(1 / WIDTH + 1e-6)

function expectBorders(field: Field, factor: number): void {
  const { across, down } = steps(field)
  for (const means of [across, down]) {
    const border = means.pop()!
    expect(border).toBeLessThan(Math.max(...means) * factor + 1e-3)
  }
}

test('bond: all layings, gaps, corners and unevenness', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.record({
        bond: fc.constantFrom(...BOND_NAMES),
        columns: fc.integer({ min: 1, max: 8 }),
        aspect: between(0.25, 6),
        gap: between(0, 0.05),
        rounding: between(0, 0.1),
        shift: unit,
        slant: between(-0.2, 0.2),
        rings: fc.integer({ min: 2, max: 6 }),
        spread: between(0, 0.9),
        positionJitter: between(0, 0.1),
        rotationJitter: between(0, 0.5),
        sizeJitter: between(0, 0.9),
        seed: fc.nat(1000),
      }),
      heights,
      async (params, height) => expectLaw(await evaluate('bond', params, 'distance', height)),
    ),
    { numRuns: 60, seed: 3 },
  )
})

test('shape: all figures, sizes, turns and repeats', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.record({
        shape: fc.constantFrom(...SHAPES),
        size: fc.tuple(between(0.001, 2), between(0.001, 2)),
        rounding: between(0, 0.5),
        sides: fc.integer({ min: 3, max: 9 }),
        inner: between(0.05, 1),
        angle: between(-1, 1),
        centre: fc.tuple(between(-1, 2), between(-1, 2)),
        repeat: fc.tuple(fc.integer({ min: 1, max: 4 }), fc.integer({ min: 1, max: 4 })),
      }),
      heights,
      async (params, height) => expectLaw(await evaluate('shape', params, 'distance', height)),
    ),
    { numRuns: 150, seed: 4 },
  )
})

test('place: whole numbers whatever turn and size are asked for, never none at all', () => {
  fc.assert(
    fc.property(between(-8, 8), between(0.02, 50), fc.boolean(), (turns, scale, square) => {
      const { a, b, c, d, repeats } = tilingTurn(turns, scale, square)
      expect([a, b, c, d].every(Number.isInteger)).toBe(true)
      // The area that the source covers, in tiles, is the square of how often it goes along a side.
      expect(a * d - b * c).toBeCloseTo(repeats * repeats, 6)
      expect(repeats).toBeGreaterThanOrEqual(1)
      if (!square) expect([b, c]).toEqual([0, 0])
    }),
  )
})

test.each([
  [
    'weave',
    'height',
    fc.record({
      weave: fc.constantFrom('plain', 'twill', 'satin'),
      threads: fc.tuple(fc.integer({ min: 2, max: 12 }), fc.integer({ min: 2, max: 12 })),
      gap: between(0, 0.9),
      roundness: unit,
      wave: unit,
    }),
  ],
  [
    'stripes',
    'grey',
    fc.record({
      frequency: fc.tuple(fc.integer({ min: -8, max: 8 }), fc.integer({ min: -8, max: 8 })),
      coverage: unit,
      softness: between(0, 0.1),
      offset: between(-2, 2),
    }),
  ],
  [
    'spots',
    'grey',
    fc.record({
      cells: fc.tuple(fc.integer({ min: 1, max: 6 }), fc.integer({ min: 1, max: 6 })),
      density: between(0.5, 1),
      size: fc.tuple(between(0.2, 4), between(0.2, 4)),
      softness: between(0.5, 1),
      overlap: fc.constantFrom('maximum', 'sum'),
      seed: fc.nat(1000),
    }),
  ],
  [
    'fibres',
    'grey',
    fc.record({
      count: fc.integer({ min: 30, max: 120 }),
      length: fc.tuple(between(0.1, 1), between(0.1, 1)),
      width: fc.tuple(between(0.02, 0.1), between(0.02, 0.1)),
      angle: unit,
      spread: unit,
      bend: unit,
      softness: unit,
      seed: fc.nat(1000),
    }),
  ],
] as const)('%s: the step over the border is one among those inside', async (type, port, params) => {
  await fc.assert(
    fc.asyncProperty(params as fc.Arbitrary<Record<string, unknown>>, heights, async (given, height) =>
      expectBorders(await evaluate(type, given, port, height), 1.35),
    ),
    { numRuns: 30, seed: 6 },
  )
})
