import { decodeSrgb } from '../colour/srgb'
import { documentOf, evaluateOutputs } from '../testing/examples'

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

test('a channel of the material’s own stands in for a derived one of its name', async () => {
  const own = documentOf({
    channels: { specular: { type: 'colour', backdrop: '#ff0000' } },
    layers: [],
  })
  const { fields } = await evaluateOutputs(own, ['specular'], 1)
  expect(fields.get('specular')!.planes.map((plane) => plane[0])).toEqual([1, 0, 0])
})
