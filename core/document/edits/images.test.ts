import { parseDocument } from '../document'
import { sheet } from '../../testing/sheet'
import { imagePlaces, replaceImage } from './images'

const [old, other, next] = ['a', 'b', 'c'].map((letter) => `sha256:${letter.repeat(64)}`) as [string, string, string]

test('an image is replaced in nodes, dials and their presets, and nowhere else', () => {
  const document = parseDocument({
    ...sheet(),
    layers: [],
    nodes: {
      one: { type: 'image', params: { image: old } },
      two: { type: 'image', params: { image: other } },
      three: { type: 'stencil', params: { image: old } },
    },
    dials: [
      { id: 'd', label: 'Plate', kind: 'image', default: other, value: old, drives: [{ node: 'one', field: 'image' }] },
    ],
  })
  expect(imagePlaces(document, old)).toBe(3)
  replaceImage(document, old, next)
  expect(document.nodes).toMatchObject({
    one: { params: { image: next } },
    two: { params: { image: other } },
    three: { params: { image: next } },
  })
  expect(document.dials[0]).toMatchObject({ default: other, value: next })
  expect(imagePlaces(document, old)).toBe(0)
})
