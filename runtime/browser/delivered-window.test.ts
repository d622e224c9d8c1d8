import { documentOf } from '#core/testing/examples'
import { materialHere } from '#core/testing/material-here'
import { parseOutput } from '#core/document/address'
import { displayBytes } from '#core/preview/display'
import { evaluateWindow } from './delivered-window'

const document = documentOf({
  nodes: {
    noise: { type: 'noise', params: { cells: [6, 6] } },
    soft: { type: 'blur', params: { radius: 0.02 }, inputs: { source: 'noise.grey' } },
  },
  layers: [{ kind: 'layer', id: 'a', name: 'a', cells: { roughness: { source: { node: 'soft.result' } } } }],
})
const signals = { isCancelled: () => false }

it.each([
  ['within', 10, 20],
  ['over the right border and the lower one', 90, 80],
  ['before the left border and the upper one', -7, -9],
])('a window %s has the texels of the whole, sharpened as the whole is', async (_, left, top) => {
  const sharpen = { roughness: 0.5 }
  const request = { channel: 'roughness', width: 96, left, top, wide: 24, high: 18, sharpen }
  const found = await evaluateWindow(materialHere(document), request, signals)
  const { fields } = await materialHere(document).evaluate({
    outputs: [parseOutput('roughness')],
    width: 96,
    options: { sharpen },
  })
  const whole = displayBytes(fields.get('roughness')!)
  expect([found.width, found.height]).toEqual([24, 18])
  const texel = (x: number, y: number) => [...whole.pixels.subarray((y * 96 + x) * 4, (y * 96 + x) * 4 + 4)]
  for (let y = 0; y < 18; y++)
    for (let x = 0; x < 24; x++) {
      const [X, Y] = [(left + x + 96) % 96, (top + y + 96) % 96]
      const at = (y * 24 + x) * 4
      expect([...found.pixels.subarray(at, at + 4)]).toEqual(texel(X, Y))
    }
})

it('is given up, and refuses what is no size', async () => {
  const request = { channel: 'roughness', width: 96, left: 0, top: 0, wide: 8, high: 8, sharpen: 0 }
  await expect(evaluateWindow(materialHere(document), request, { isCancelled: () => true })).rejects.toMatchObject({
    code: 'cancelled',
  })
  await expect(evaluateWindow(materialHere(document), { ...request, width: 20000 }, signals)).rejects.toMatchObject({
    code: 'size-invalid',
  })
})
