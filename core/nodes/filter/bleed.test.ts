import { createField } from '../../field/field'
import { bleedColour } from '../../kernels/bleed-colour'
import { allRows } from '../../kernels/rows'
import { deliverHere } from '../../testing/deliver-here'
import { documentOf } from '../../testing/examples'
import { readWithOiio } from '../../testing/oiio'
import { randomNumbers } from '../../testing/random-values'
import { definePacking } from '../../texture/packing'

test('each texel takes the colour of a nearest opaque one, over borders too: by trying all of them', () => {
  const random = randomNumbers(3)
  const [w, h] = [17, 12]
  for (const share of [0.5, 0.9, 0.99]) {
    const [source, opacity, out] = [createField('colour', w, h), createField('grey', w, h), createField('colour', w, h)]
    // Each texel's colour says where it is.
    for (let i = 0; i < w * h; i++) {
      source.planes[0]![i] = i
      opacity.planes[0]![i] = random() < share ? random() * 0.009 : 0.5
    }
    opacity.planes[0]![5] = 1
    bleedColour(source, opacity, out, 0.01, allRows(h))
    const square = (a: number, b: number): number => {
      const apart = (p: number, q: number, length: number): number =>
        Math.min(Math.abs(p - q), length - Math.abs(p - q))
      return apart(a % w, b % w, w) ** 2 + apart(Math.floor(a / w), Math.floor(b / w), h) ** 2
    }
    const opaque = [...opacity.planes[0]!.keys()].filter((i) => opacity.planes[0]![i]! >= 0.01)
    for (let i = 0; i < w * h; i++) {
      const taken = out.planes[0]![i]!
      expect(opaque).toContain(taken)
      expect(square(i, taken)).toBe(Math.min(...opaque.map((one) => square(i, one))))
    }
  }
})

test('where nothing is opaque, colours stay', () => {
  const [source, opacity, out] = [createField('colour', 4, 4), createField('grey', 4, 4), createField('colour', 4, 4)]
  source.planes.forEach((plane, p) => plane.fill(p + 1))
  bleedColour(source, opacity, out, 0.01, allRows(4))
  expect(out.planes).toEqual(source.planes)
})

test('a packing that asks for it has no dark fringe in its files; others keep the colours as they are', async () => {
  const document = documentOf({
    name: 'Leaf',
    nodes: {
      n: { type: 'noise', params: { cells: [3, 3], octaves: 1 } },
      m: { type: 'threshold', params: { softness: 0 }, inputs: { source: 'n.grey' } },
      c: {
        type: 'gradient-remap',
        params: {
          stops: [
            { at: 0, colour: '#000000' },
            { at: 1, colour: '#40a020' },
          ],
        },
        inputs: { source: 'm.result' },
      },
    },
    layers: [
      {
        ...{ kind: 'layer', id: 'a', name: 'A' },
        cells: { colour: { source: { node: 'c.result' } }, opacity: { source: { node: 'm.result' } } },
      },
    ],
  })
  const made = async (bleeds: boolean) => {
    const slots = [0, 1, 2].map((component) => ({ channel: 'colour', component, invert: false }))
    const packing = definePacking({
      ...{ name: 'one', title: '', summary: '', bleeds, pattern: '{map}' },
      files: [{ map: 'c', format: 'png', bits: 8, transfer: 'srgb', slots: slots as never }],
    })
    const { files } = await deliverHere(document, packing)
    const { planes } = readWithOiio(files.get('c.png')!, 'png')
    return new Set([...planes[0]!.keys()].map((i) => planes.map((plane) => Math.round(plane[i]! * 255)).join()))
  }
  expect(await made(false)).toEqual(new Set(['0,0,0', '64,160,32']))
  expect(await made(true)).toEqual(new Set(['64,160,32']))
})
