import { decodeSrgb } from '../colour/srgb'
import type { Field } from '../field/field'
import { createField, uniformField } from '../field/field'
import { documentOf, evaluateOutputs } from '../testing/examples'
import { randomNumbers } from '../testing/random-values'
import { allRows } from './rows'
import { joinSpecular, splitSpecular } from './specular'

/** What the derived channels of a material with these values are. */
async function derived(colour: string, metallic: number, width = 1): Promise<Record<string, number[]>> {
  const layer = {
    kind: 'layer',
    id: 'base',
    name: 'Base',
    cells: { colour: { source: { value: colour } }, metallic: { source: { value: metallic } } },
  }
  const names = ['diffuse', 'specular', 'specular-tint']
  const { fields } = await evaluateOutputs(documentOf({ layers: [layer] }), names, width)
  return Object.fromEntries(names.map((name) => [name, fields.get(name)!.planes.map((plane) => plane[0]!)]))
}

const linear = (code: number): number => decodeSrgb(code / 255)
const encoded = (v: number): number => (v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055)

describe('metal to specular', () => {
  // KHR_materials_pbrSpecularGlossiness, appendix: worked by hand for base (1, 0.5, 0.25) in linear light at half metal,
  // specular = 0.04 + (base − 0.04) / 2, diffuse = base · 0.5 · 0.96 / (1 − 0.52). Its sRGB codes are 255, 188, 137.
  test('half metal, worked by hand', async () => {
    const { diffuse, specular } = await derived('#ffbc89', 0.5)
    ;[0.52, (0.04 + linear(188)) / 2, (0.04 + linear(137)) / 2].forEach((v, p) =>
      expect(specular![p]).toBeCloseTo(v, 5),
    )
    ;[1, linear(188), linear(137)].forEach((v, p) => expect(diffuse![p]).toBeCloseTo(v, 5))
  })

  test('no metal keeps its colour over 0.04, metal has none below', async () => {
    const plain = await derived('#804020', 0)
    expect(plain.specular!.every((v) => Math.abs(v - 0.04) < 1e-7)).toBe(true)
    ;[0x80, 0x40, 0x20].forEach((code, p) => expect(plain.diffuse![p]).toBeCloseTo(linear(code), 6))
    const metal = await derived('#804020', 1)
    expect(metal.diffuse).toEqual([0, 0, 0])
    ;[0x80, 0x40, 0x20].forEach((code, p) => expect(metal.specular![p]).toBeCloseTo(linear(code), 6))
    // White metal leaves nothing to divide by.
    expect((await derived('#ffffff', 1)).diffuse).toEqual([0, 0, 0])
  })
})

describe('specular tint', () => {
  // Common practice. Hue by hand: orange (200, 100, 50) has largest + smallest 250, so its complement is (50, 150, 200).
  test('is the complement of non-metals, darkened, and a brighter own colour of metals', async () => {
    const { 'specular-tint': plain } = await derived('#c86432', 0)
    ;[50, 150, 200].forEach((code, p) => expect(encoded(plain![p]!) * 255).toBeCloseTo(code * 0.35, 2))
    const { 'specular-tint': metal } = await derived('#643219', 1)
    ;[150, 75, 37.5].forEach((code, p) => expect(encoded(metal![p]!) * 255).toBeCloseTo(code, 2))
    // 200 · 1.5 would burn out: all three are scaled by 255 / 200.
    const { 'specular-tint': bright } = await derived('#c86432', 1)
    ;[255, 127.5, 63.75].forEach((code, p) => expect(encoded(bright![p]!) * 255).toBeCloseTo(code, 2))
  })
})

describe('by channels that a material may have', () => {
  const own = (backdrop: number) => ({ type: 'grey', backdrop })
  const layer = (metallic: number) => ({
    ...{ kind: 'layer', id: 'base', name: 'Base' },
    cells: { colour: { source: { value: '#c86432' } }, metallic: { source: { value: metallic } } },
  })
  const codes = async (channel: string, metallic: number, channels: object): Promise<number[]> => {
    const { fields } = await evaluateOutputs(documentOf({ channels, layers: [layer(metallic)] }), [channel], 1)
    return fields.get(channel)!.planes.map((plane) => encoded(plane[0]!) * 255)
  }

  // Common practice, worked by hand from the complement (50, 150, 200) at 0.35.
  test('a level multiplies, what faces up is darker, highlights are painted over', async () => {
    const near = (found: number[], wanted: number[]) => wanted.forEach((v, p) => expect(found[p]).toBeCloseTo(v, 2))
    near(await codes('specular-tint', 0, { 'specular-level': own(0.5) }), [8.75, 26.25, 35])
    near(await codes('specular-tint', 0, { upward: own(0.75) }), [4.375, 13.125, 17.5])
    near(await codes('specular-tint', 0, { upward: own(1) }), [0, 0, 0])
    // Metals keep their own: light from above is not painted into them.
    near(await codes('specular-tint', 1, { upward: own(1), 'specular-level': own(0.1) }), [255, 127.5, 63.75])
    near(await codes('specular-tint', 0, { highlights: own(0.2) }), [65, 93, 107])
  })

  // The same: grey of (17.5, 52.5, 70) by the weights of BT.709 is 46.32, of which so much is added.
  test('highlights in diffuse are diffuse + amount · grey of the specular · upward', async () => {
    const added = (found: number[]) => [200, 100, 50].map((v, p) => found[p]! - v)
    for (const v of added(await codes('diffuse-highlights', 0, {}))) expect(v).toBeCloseTo(46.3225 / 2, 1)
    for (const v of added(await codes('diffuse-highlights', 0, { fold: own(0.8) })))
      expect(v).toBeCloseTo(46.3225 * 0.8, 1)
    // What faces half up takes half of what is left of the specular colour there.
    for (const v of added(await codes('diffuse-highlights', 0, { upward: own(0.5) })))
      expect(v).toBeCloseTo(46.3225 / 8, 1)
    expect((await codes('diffuse-highlights', 0, { fold: own(1), highlights: own(1) }))[0]).toBeCloseTo(255, 3)
  })
})

test('a channel of the material’s own stands in for a derived one of its name', async () => {
  const own = documentOf({
    channels: { specular: { type: 'colour', backdrop: '#ff0000' } },
    layers: [],
  })
  const { fields } = await evaluateOutputs(own, ['specular'], 1)
  expect(fields.get('specular')!.planes.map((plane) => plane[0])).toEqual([1, 0, 0])
})

describe('diffuse and specular as base colour and metallic', () => {
  const joined = (diffuse: readonly number[], specular: readonly number[]): number[] => {
    const out = { colour: createField('colour', 1, 1), metallic: createField('grey', 1, 1) }
    joinSpecular(uniformField('colour', 1, 1, diffuse), uniformField('colour', 1, 1, specular), out, allRows(1))
    return [...out.colour.planes.map((plane) => plane[0]!), out.metallic.planes[0]![0]!]
  }

  test('values worked by hand from the appendix of KHR_materials_pbrSpecularGlossiness', () => {
    // A plain surface: specular 0.04 leaves the diffuse as it is, metallic 0.
    expect(joined([0.5, 0.25, 0.1], [0.04, 0.04, 0.04]).map((v) => v.toFixed(5))).toEqual([
      '0.50000',
      '0.25000',
      '0.10000',
      '0.00000',
    ])
    // A metal: no diffuse, its own colour as specular. b = 0.8 − 0.08 = 0.72 and c = −0.76: the root of 0.04 m² + 0.72 m − 0.76 is 1.
    expect(joined([0, 0, 0], [0.8, 0.8, 0.8]).map((v) => v.toFixed(5))).toEqual([
      '0.80000',
      '0.80000',
      '0.80000',
      '1.00000',
    ])
    // Less than 0.04 tells of no metal: base = diffuse · 0.98 / 0.96.
    expect(joined([0.48, 0.48, 0.48], [0.02, 0.02, 0.02]).map((v) => v.toFixed(5))).toEqual([
      '0.49000',
      '0.49000',
      '0.49000',
      '0.00000',
    ])
  })

  test('there and back is within 1/255 of plausible surfaces: plain, metal, and greys between', () => {
    const random = randomNumbers(9)
    for (let n = 0; n < 400; n++) {
      const metal = n % 3 === 0 ? 0 : n % 3 === 1 ? 1 : random()
      // Between, only greys tell both apart: colours are mixed by how bright they seem.
      const grey = 0.1 + 0.8 * random()
      const base =
        n % 3 === 2 ? [grey, grey, grey] : [0.05 + 0.85 * random(), 0.05 + 0.85 * random(), 0.05 + 0.85 * random()]
      const parts = { diffuse: createField('colour', 1, 1), specular: createField('colour', 1, 1) }
      splitSpecular(uniformField('colour', 1, 1, base), uniformField('grey', 1, 1, [metal]), parts, allRows(1))
      const at = (field: Field): number[] => field.planes.map((plane) => plane[0]!)
      const [r, g, b, m] = joined(at(parts.diffuse), at(parts.specular)) as [number, number, number, number]
      expect(Math.abs(m - metal)).toBeLessThan(1 / 255)
      ;[r, g, b].forEach((v, c) => expect(Math.abs(v - base[c]!)).toBeLessThan(1 / 255))
    }
  })
})
