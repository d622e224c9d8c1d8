import type { Field } from '../field/field'
import { fieldOf } from '../testing/fields'
import { createField } from '../field/field'
import { Heap } from '../field/heap'
import type { WriteRow } from './contour-distance'
import { CONTOUR_PHASES, CONTOUR_PLANES, contourDistance, contourDistances } from './contour-distance'
import { allRows } from './rows'
import { memoryHere, withoutSimd } from './simd'

const N = 112
/** Points a texel is looked at, along each axis: coverage as a box filter gives it. */
const FINE = 16

/** Coverage of a shape, 0–1, by its exact signed distance in texels. Hard: 0 or 1 by the texel's centre. */
function coverage(exact: (x: number, y: number) => number, hard: boolean): Field {
  const inside = (x: number, y: number): boolean => exact(x, y) < 0
  return fieldOf('grey', N, N, (x, y) => {
    if (hard || Math.abs(exact(x + 0.5, y + 0.5)) > 1) return inside(x + 0.5, y + 0.5) ? 1 : 0
    let count = 0
    for (let j = 0; j < FINE; j++)
      for (let i = 0; i < FINE; i++) if (inside(x + (i + 0.5) / FINE, y + (j + 0.5) / FINE)) count++
    return count / (FINE * FINE)
  })
}

/** Exact signed distance to a disc's rim and a turned box's outline, in texels; below 0 inside. */
const disc =
  (cx: number, cy: number, r: number) =>
  (x: number, y: number): number =>
    Math.hypot(x - cx, y - cy) - r
const boxed = (cx: number, cy: number, turn: number, x: number, y: number): [number, number] => {
  const [c, s] = [Math.cos(turn), Math.sin(turn)]
  return [Math.abs((x - cx) * c + (y - cy) * s), Math.abs((y - cy) * c - (x - cx) * s)]
}
const box =
  (cx: number, cy: number, w: number, h: number, turn: number) =>
  (x: number, y: number): number => {
    const [u, v] = boxed(cx, cy, turn, x, y)
    return Math.hypot(Math.max(u - w, 0), Math.max(v - h, 0)) + Math.min(0, Math.max(u - w, v - h))
  }

/** Greatest error within 20 texels of the edge, where `counts`. */
function worst(
  field: Field,
  exact: (x: number, y: number) => number,
  counts: (x: number, y: number) => boolean,
): number {
  let max = 0
  for (const side of ['outside', 'inside'] as const) {
    const found = contourDistance(field, 0.5, side, () => {})
    for (let y = 0; y < N; y++)
      for (let x = 0; x < N; x++) {
        const d = exact(x + 0.5, y + 0.5) * (side === 'outside' ? 1 : -1)
        if (Math.abs(d) > 20 || !counts(x + 0.5, y + 0.5)) continue
        max = Math.max(max, Math.abs(found[y * N + x]! * N - Math.max(0, d)))
      }
  }
  return max
}
const everywhere = (): boolean => true

test.each([
  [56.57, 56.26, 20.35],
  [55.9, 56.5, 7.2],
  [56, 56, 13.5],
])('an anti-aliased disc at %d, %d of radius %d: within 0.15 texels of the exact distance', (cx, cy, r) => {
  const exact = disc(cx, cy, r)
  expect(worst(coverage(exact, false), exact, everywhere)).toBeLessThan(0.15)
})

test.each([
  [56.7, 56.52, 11.19, 14.64, 0.01],
  [56.42, 56.83, 13.65, 10.33, 0],
  [56.1, 55.6, 17.19, 12.4, 0.6],
  [56, 56.25, 9, 16, 1.2],
])('an anti-aliased box at %d, %d, %d × %d, turned by %d: within 0.15 away from its corners', (cx, cy, w, h, turn) => {
  const exact = box(cx, cy, w, h, turn)
  // Where coverage passes a half the corner itself is rounded, by up to 0.3 texels.
  const apart = (x: number, y: number): boolean => {
    const [u, v] = boxed(cx, cy, turn, x, y)
    return !(u > w - 1.5 && v > h - 1.5)
  }
  expect(worst(coverage(exact, false), exact, apart)).toBeLessThan(0.15)
})

test('a hard mask of whole texels: within 0.15, its inner corners too', () => {
  const exact = box(56, 56, 20, 6, 0)
  const apart = (x: number, y: number): boolean => !(Math.abs(x - 56) > 20 && Math.abs(y - 56) > 6)
  expect(worst(coverage(exact, true), exact, apart)).toBeLessThan(0.15)
})

test('neighbours never differ by more than the way between them, but for rounding', () => {
  const exact = box(56.1, 55.6, 17.19, 12.4, 0.6)
  const field = coverage(exact, false)
  for (const side of ['outside', 'inside'] as const) {
    const found = contourDistance(field, 0.5, side, () => {})
    let max = 0
    for (let y = 0; y < N; y++)
      for (let x = 0; x < N; x++)
        for (const next of [y * N + ((x + 1) % N), ((y + 1) % N) * N + x])
          max = Math.max(max, Math.abs(found[next]! - found[y * N + x]!) * N)
    expect(max).toBeLessThan(1.15)
  }
})

test('lines across the border, saddles, and fields that never pass the level', () => {
  const across = fieldOf('grey', 16, 16, (x) => (x < 2 || x >= 14 ? 1 : 0))
  expect(contourDistance(across, 0.5, 'outside', () => {})[8 * 16 + 8]! * 16).toBeCloseTo(5.5, 5)
  const chess = fieldOf('grey', 8, 8, (x, y) => ((x ^ y) & 2) / 2)
  for (const d of contourDistance(chess, 0.5, 'inside', () => {})) expect(d * 8).toBeLessThan(1)
  const none = fieldOf('grey', 4, 3, () => 0)
  expect([...contourDistance(none, 0.5, 'outside', () => {})]).toEqual(Array(12).fill(Math.fround(2.5 / 4)))
  expect([...contourDistance(none, 0.5, 'inside', () => {})]).toEqual(Array(12).fill(0))
})

describe('in phases', () => {
  const shared = memoryHere()!
  const heap = new Heap(shared)
  const field = (width: number, height: number): Field =>
    fieldOf(
      'grey',
      width,
      height,
      (x, y) => Math.sin(x * 0.7) + Math.cos(y * 0.9 + x * 0.3) + ((x * 7 + y * 13) % 5) / 4,
    )
  const sides = (['outside', 'inside'] as const).map((side) => ({ side, most: Infinity }))
  function collect(width: number, height: number, run: (write: WriteRow) => void): Record<string, Float32Array> {
    const found = { outside: new Float32Array(width * height), inside: new Float32Array(width * height) }
    run((side, y, distances) => found[side].set(distances, y * width))
    return found
  }

  it.each([
    [48, 40],
    [33, 70],
    [64, 64],
  ])('over bands in any order, has the bits of the definition (%i × %i)', (width, height) => {
    const source = field(width, height)
    const expected = withoutSimd(() =>
      collect(width, height, (write) => contourDistances(source, 0.5, sides, { rows: allRows(height) }, write)),
    )
    const scratch = createField(
      'grey',
      width,
      CONTOUR_PLANES * height,
      { top: 0, rows: CONTOUR_PLANES * height },
      heap.allocate,
    )
    const found = collect(width, height, (write) => {
      for (let phase = 0; phase < CONTOUR_PHASES; phase++)
        for (const band of [2, 0, 1]) {
          const rows = {
            from: Math.floor((band * height) / 3),
            to: Math.floor(((band + 1) * height) / 3),
            check: () => {},
          }
          contourDistances(source, 0.5, sides, { rows, scratch, phase }, write)
        }
    })
    expect(found).toEqual(expected)
    const whole = collect(width, height, (write) =>
      contourDistances(source, 0.5, sides, { rows: allRows(height) }, write),
    )
    expect(whole).toEqual(expected)
  })

  it('tell no less than the truth up to what is asked for, and no less than that beyond', () => {
    const source = fieldOf('grey', 96, 96, (x, y) => (Math.hypot(x - 40.3, y - 50.8) < 21.7 ? 1 : 0))
    for (const side of ['outside', 'inside'] as const) {
      const all = contourDistance(source, 0.5, side, () => {})
      for (const most of [0.004, 0.03, 0.1]) {
        let shortened = 0
        contourDistances(source, 0.5, [{ side, most }], { rows: allRows(96) }, (_, y, row) => {
          for (let x = 0; x < 96; x++) {
            const exact = all[y * 96 + x]!
            if (row[x] === exact) continue
            shortened++
            expect(Math.min(row[x]!, exact)).toBeGreaterThanOrEqual(most)
          }
        })
        expect(shortened).toBeGreaterThan(20)
      }
    }
  })

  it('without twins, are one: the first tile of the last does it all', () => {
    const source = field(24, 24)
    const expected = collect(24, 24, (write) => contourDistances(source, 0.5, sides, { rows: allRows(24) }, write))
    const found = withoutSimd(() =>
      collect(24, 24, (write) => {
        for (let phase = 0; phase < CONTOUR_PHASES; phase++)
          for (const from of [0, 12])
            contourDistances(source, 0.5, sides, { rows: { from, to: from + 12, check: () => {} }, phase }, write)
      }),
    )
    expect(found).toEqual(expected)
  })

  it('can be cancelled between pieces of each', () => {
    const source = field(256, 256)
    const scratch = createField(
      'grey',
      256,
      CONTOUR_PLANES * 256,
      { top: 0, rows: CONTOUR_PLANES * 256 },
      heap.allocate,
    )
    for (let phase = 0; phase < CONTOUR_PHASES; phase++) {
      let checks = 0
      const check = (): void => {
        checks++
      }
      contourDistances(
        source,
        0.5,
        [{ side: 'inside', most: Infinity }],
        { rows: { from: 0, to: 256, check }, scratch, phase },
        () => {},
      )
      expect(checks).toBeGreaterThanOrEqual(8)
    }
  })
})
