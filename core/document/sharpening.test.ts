import { documentOf, evaluateOutputs } from '#core/testing/examples'
import { materialHere } from '#core/testing/material-here'
import { parseOutput } from './address'
import { channelsOf } from './channels'
import { sharpenOf, sharpenedOf, sharpening, withSharpening } from './sharpening'

const document = documentOf({
  nodes: { noise: { type: 'noise', params: { cells: [8, 8] } } },
  layers: [
    {
      kind: 'layer',
      id: 'a',
      name: 'a',
      cells: { colour: { source: { node: 'noise.grey' } }, roughness: { source: { node: 'noise.grey' } } },
    },
  ],
})
const channels = channelsOf(document)
const channel = (id: string) => channels.find((one) => one.id === id)!

it('one number is of base colour; by channel it is of whatever is named, but for directions', () => {
  expect(sharpenedOf(channels, 0.5).map((one) => [one.channel.id, one.amount])).toEqual([['colour', 0.5]])
  const own = { roughness: 0.3, normal: 0.8, emission: 0 }
  expect(sharpenedOf(channels, own).map((one) => [one.channel.id, one.amount])).toEqual([['roughness', 0.3]])
  expect(sharpenOf(channel('colour'), own)).toBe(0)
  expect(sharpening.safeParse({ colour: 1.5 }).success).toBe(false)
})

it('one channel is set without the others', () => {
  const both = withSharpening(channels, 0.5, 'roughness', 0.25)
  expect(both).toEqual({ colour: 0.5, roughness: 0.25 })
  expect(withSharpening(channels, both, 'colour', 0)).toEqual({ roughness: 0.25 })
})

it('only what is named comes out sharper', async () => {
  const outputs = ['colour', 'roughness'].map(parseOutput)
  const plain = await evaluateOutputs(document, ['colour', 'roughness'], 32)
  const sharp = await materialHere(document).evaluate({ outputs, width: 32, options: { sharpen: { roughness: 0.5 } } })
  expect(sharp.fields.get('colour')!.planes).toEqual(plain.fields.get('colour')!.planes)
  const deviation = (values: Float32Array): number => {
    const mean = values.reduce((sum, v) => sum + v, 0) / values.length
    return Math.sqrt(values.reduce((sum, v) => sum + (v - mean) ** 2, 0) / values.length)
  }
  const [soft, crisp] = [plain, sharp].map(({ fields }) => deviation(fields.get('roughness')!.planes[0]!))
  expect(crisp).toBeGreaterThan(soft! * 1.02)
})
