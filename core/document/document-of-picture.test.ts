import { tileSize } from '../field/field'
import { metresOf } from './domain'
import type { RasterImage } from '../field/pyramid'
import { materialHere } from '../testing/material-here'
import { randomNumbers } from '../testing/random-values'
import { channelOutput, formatOutput } from './address'
import { documentOfPicture } from './document-of-picture'

const SIDE = 64

/** Grains of two colours on a ground that gets darker to the right: its borders do not fit. */
function picture(channels: 1 | 3): RasterImage {
  const next = randomNumbers(3)
  const values = new Float32Array(SIDE * SIDE * channels)
  for (let i = 0; i < SIDE * SIDE; i++) {
    const light = 0.8 - (0.5 * (i % SIDE)) / SIDE + 0.1 * next()
    for (let c = 0; c < channels; c++) values[i * channels + c] = light * [1, 0.9, 0.7][c]!
  }
  return { width: SIDE, height: SIDE, channels, bits: 8, float: false, values }
}

async function channelsOf(channels: 1 | 3): Promise<Map<string, readonly Float32Array[]>> {
  const document = documentOfPicture({ image: 'p.png', name: 'P', width: SIDE, height: SIDE, isGrey: channels === 1 })
  const names = ['colour', 'normal', 'roughness', 'height', 'occlusion']
  const outputs = names.map(channelOutput)
  const { fields, faults } = await materialHere(document, {
    images: { load: async () => picture(channels) },
  }).evaluatePartial({ outputs, width: SIDE })
  expect([...faults]).toEqual([])
  return new Map(names.map((name, i) => [name, fields.get(formatOutput(outputs[i]!))!.planes]))
}
const spread = (plane: Float32Array): number => Math.max(...plane) - Math.min(...plane)
/** Mean step over the border between left and right, and between neighbours inside. */
function steps(plane: Float32Array): { border: number; inside: number } {
  let [border, inside] = [0, 0]
  for (let y = 0; y < SIDE; y++) {
    border += Math.abs(plane[y * SIDE]! - plane[y * SIDE + SIDE - 1]!) / SIDE
    for (let x = 1; x < SIDE; x++)
      inside += Math.abs(plane[y * SIDE + x]! - plane[y * SIDE + x - 1]!) / (SIDE * (SIDE - 1))
  }
  return { border, inside }
}

test('a picture of an odd shape makes a tile with whole rows at every usual size; the picture lies lowest', () => {
  const { domain, layers } = documentOfPicture({ image: 'p', name: 'P', width: 640, height: 427, isGrey: false })
  for (const width of [32, 64, 256, 2048]) expect(() => tileSize(width, metresOf({ domain }))).not.toThrow()
  expect(layers.map(({ id }) => id)).toEqual(['picture', 'edges', 'range'])
})

test.each([1, 3] as const)('a picture of %i channels becomes a whole material that repeats', async (channels) => {
  const found = await channelsOf(channels)
  for (const name of ['height', 'roughness']) {
    const { border, inside } = steps(found.get(name)![0]!)
    expect(border).toBeLessThan(2 * inside + 0.01)
    expect(spread(found.get(name)![0]!)).toBeGreaterThan(0.02)
  }
  expect(spread(found.get('normal')![0]!)).toBeGreaterThan(0.1)
  expect(spread(found.get('occlusion')![0]!)).toBeGreaterThan(0.001)
  // A grey one gives no colour.
  expect(spread(found.get('colour')![0]!) > 0.05).toBe(channels === 3)
  const rough = found.get('roughness')![0]!
  expect([Math.min(...rough) > 0.4, Math.max(...rough) <= 0.9]).toEqual([true, true])
})
