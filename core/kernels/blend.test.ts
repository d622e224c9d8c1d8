import { blend as culoriBlend } from 'culori'
import { fieldOf } from '../testing/fields'
import { createField } from '../field/field'
import type { BlendMode } from './blend'
import { BLEND_MODES } from './blend'
import { blendFields } from './blend-fields'
import { allRows } from './rows'

const LEVELS = [0, 0.01, 0.1, 0.25, 0.3, 0.5, 0.501, 0.7, 0.9, 0.99, 1]
type Triple = [number, number, number]

/** Our blend of single texels: a row of base colours and one of source colours. */
function ours(mode: BlendMode, base: Triple[], source: Triple[], amount = 1, mask?: number[]): Triple[] {
  const n = base.length
  const field = (list: Triple[]) => fieldOf('colour', n, 1, (x, _, p) => list[x]![p]!)
  const out = createField('colour', n, 1)
  blendFields(
    field(base),
    field(source),
    mask ? fieldOf('grey', n, 1, (x) => mask[x]!) : null,
    out,
    allRows(1),
    mode,
    amount,
  )
  return base.map((_, x) => [0, 1, 2].map((p) => out.planes[p]![x]!) as Triple)
}

const pairs: [number, number][] = LEVELS.flatMap((b) => LEVELS.map((s): [number, number] => [b, s]))
const grey = (v: number): Triple => [v, v, v]

describe('separable modes, W3C Compositing and Blending Level 1, section 9.1', () => {
  // culori 4's blend follows the same recommendation and is written independently of ours.
  const CULORI = {
    multiply: 'multiply',
    screen: 'screen',
    darken: 'darken',
    lighten: 'lighten',
    'colour-dodge': 'color-dodge',
    'colour-burn': 'color-burn',
    'soft-light': 'soft-light',
    difference: 'difference',
    exclusion: 'exclusion',
  } as const
  test.each(Object.entries(CULORI))('%s equals culori', (mode, name) => {
    const values = ours(
      mode as BlendMode,
      pairs.map(([b]) => grey(b)),
      pairs.map(([, s]) => grey(s)),
    )
    pairs.forEach(([b, s], i) => {
      const theirs = culoriBlend(
        [
          { mode: 'rgb', r: b, g: b, b },
          { mode: 'rgb', r: s, g: s, b: s },
        ],
        name,
        'rgb',
      )
      expect([b, s, Math.abs(values[i]![0] - theirs.r) < 1e-6]).toEqual([b, s, true])
    })
  })

  test('hard-light and overlay are the formula of the recommendation (culori 4 departs from it for s > ½)', () => {
    const expected = (b: number, s: number) => (s <= 0.5 ? b * 2 * s : b + (2 * s - 1) - b * (2 * s - 1))
    const all = (mode: BlendMode) =>
      ours(
        mode,
        pairs.map(([b]) => grey(b)),
        pairs.map(([, s]) => grey(s)),
      )
    const hard = all('hard-light')
    const overlay = all('overlay')
    pairs.forEach(([b, s], i) => {
      expect(Math.abs(hard[i]![0] - expected(b, s))).toBeLessThan(1e-6)
      expect(Math.abs(overlay[i]![0] - expected(s, b))).toBeLessThan(1e-6)
    })
  })

  test('the corner cases the recommendation spells out', () => {
    const at = (mode: BlendMode, b: number, s: number): number => ours(mode, [grey(b)], [grey(s)])[0]![0]
    expect(at('colour-dodge', 0, 1)).toBe(0)
    expect(at('colour-dodge', 0.2, 1)).toBe(1)
    expect(at('colour-burn', 1, 0)).toBe(1)
    expect(at('colour-burn', 0.2, 0)).toBe(0)
    expect(at('soft-light', 0.25, 1)).toBeCloseTo(0.5, 6) // D(¼) = √¼ on both branches
  })
})

describe('non-separable modes, W3C Compositing and Blending Level 1, section 9.2', () => {
  const colours: Triple[] = [
    [0, 0, 0],
    [1, 1, 1],
    [0.5, 0.5, 0.5],
    [1, 0, 0],
    [0, 0.3, 1],
    [0.2, 0.9, 0.4],
    [0.7, 0.7, 0.1],
    [0.1, 0.05, 0.6],
  ]
  const cases = colours.flatMap((b) => colours.map((s): [Triple, Triple] => [b, s]))
  const luminosity = (c: Triple) => 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2]
  const chroma = (c: Triple) => Math.max(...c) - Math.min(...c)

  // The recommendation's pseudocode SetSat by sorted places, and ClipColor written as a blend towards grey.
  function spread(c: Triple, s: number): Triple {
    const order = [0, 1, 2].sort((i, j) => c[i]! - c[j]!) as Triple
    const result: Triple = [0, 0, 0]
    const [min, mid, max] = order
    if (c[max]! > c[min]!) {
      result[mid] = ((c[mid]! - c[min]!) * s) / (c[max]! - c[min]!)
      result[max] = s
    }
    return result
  }
  function withLuminosity(c: Triple, l: number): Triple {
    const moved = c.map((v) => v + l - luminosity(c)) as Triple
    const away = (limit: number, v: number) => (v === l ? 1 : (limit - l) / (v - l))
    const low = Math.min(...moved)
    const high = Math.max(...moved)
    const scale = Math.min(1, low < 0 ? away(0, low) : 1, high > 1 ? away(1, high) : 1)
    return moved.map((v) => l + (v - l) * scale) as Triple
  }
  const EXPECTED: Partial<Record<BlendMode, (b: Triple, s: Triple) => Triple>> = {
    hue: (b, s) => withLuminosity(spread(s, chroma(b)), luminosity(b)),
    saturation: (b, s) => withLuminosity(spread(b, chroma(s)), luminosity(b)),
    colour: (b, s) => withLuminosity(s, luminosity(b)),
    luminosity: (b, s) => withLuminosity(b, luminosity(s)),
  }
  test.each(Object.entries(EXPECTED))('%s', (mode, expected) => {
    const values = ours(
      mode as BlendMode,
      cases.map(([b]) => b),
      cases.map(([, s]) => s),
    )
    cases.forEach(([b, s], i) =>
      expected(b, s).forEach((v, p) => expect([b, s, Math.abs(values[i]![p]! - v) < 2e-6]).toEqual([b, s, true])),
    )
  })
})

test('modes of our own are what kernels/blend.ts says, unclamped', () => {
  const at = (mode: BlendMode, b: number, s: number): number => ours(mode, [grey(b)], [grey(s)])[0]![0]
  expect(at('normal', 0.2, 3)).toBe(3)
  expect(at('add', 0.75, 0.5)).toBe(1.25)
  expect(at('subtract', 0.25, 0.75)).toBe(-0.5)
  expect(at('signed-add', 0.25, 0.75)).toBe(0.75)
  expect(at('divide', 0.5, 0.25)).toBe(2)
  expect(at('divide', 0.5, 0)).toBe(0.5)
  expect(at('minimum', -2, 0.5)).toBe(-2)
  expect(at('maximum', -2, 5)).toBe(5)
})

test.each([...BLEND_MODES])('%s: weight 0 gives the base, 1 the mode, ½ the middle; the mask is clamped', (mode) => {
  const base: Triple[] = [[0.2, 0.6, 0.9]]
  const source: Triple[] = [[0.7, 0.1, 0.4]]
  const near = (a: Triple, b: Triple) => a.forEach((v, p) => expect(v).toBeCloseTo(b[p]!, 6))
  const [full] = ours(mode, base, source)
  near(ours(mode, base, source, 0)[0]!, base[0]!)
  near(ours(mode, base, source, 1, [5])[0]!, full!)
  near(ours(mode, base, source, 1, [-5])[0]!, base[0]!)
  near(ours(mode, base, source, 0.5)[0]!, base[0]!.map((b, p) => (b + full![p]!) / 2) as Triple)
  near(ours(mode, base, source, 0.5, [0.5])[0]!, base[0]!.map((b, p) => b + (full![p]! - b) / 4) as Triple)
})
