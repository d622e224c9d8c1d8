import { deliverableChannels } from '../document/channels'
import { createField } from '../field/field'
import { withoutSimd } from '../kernels/simd'
import { documentOf } from '../testing/examples'
import { randomNumbers } from '../testing/random-values'
import { exactImage, fileLoss, lossPicture } from './file-loss'
import { packedImage } from './pack-image'
import type { PackedFile } from './packing'

const SIDE = 64
const random = randomNumbers(7)
const roughness = createField('grey', SIDE, SIDE)
for (let i = 0; i < SIDE * SIDE; i++) roughness.planes[0]![i] = random()
const whole = {
  ...{ width: SIDE, height: SIDE, heightMetres: 1, dither: false },
  channels: new Map(deliverableChannels(documentOf({})).map((channel) => [channel.id, channel])),
  fields: new Map([['roughness', roughness]]),
  host: { throughJpeg: () => Promise.reject(new Error('no JPEG here')) },
}
const slot = { channel: 'roughness', component: 0, invert: false }
const plan = (more: object) =>
  ({ map: 'a', transfer: 'raw', format: 'png', bits: 8, slots: [slot], ...more }) as PackedFile
/** Peak signal over noise. */
const psnr = ({ rms }: { rms: number }): number => -20 * Math.log10(rms)
const lossOf = async (file: PackedFile) => {
  const exact = exactImage(file, whole)
  const { image } = await packedImage(file, 'a', whole)
  return { loss: fileLoss(exact, image, file), exact, image }
}

// Noise of rounding evenly spread values is Δ²/12 (W. R. Bennett, "Spectra of Quantized Signals", 1948): 20·log10(255) + 10·log10(12) dB.
test.each([
  [8, 255],
  [16, 65535],
])('rounding to %s bits loses what the textbook says', async (bits, steps) => {
  const { loss } = await lossOf(plan({ bits }))
  expect(psnr(loss)).toBeCloseTo(20 * Math.log10(steps) + 10 * Math.log10(12), 0)
  expect(loss.largest).toBeLessThanOrEqual(0.5001 / steps)
})

test('the numbers before rounding are the same by definition and by its twin', () => {
  for (const file of [plan({}), plan({ format: 'exr', bits: 32 }), plan({ slots: [{ ...slot, invert: true }] })]) {
    const [fast, plain] = [exactImage(file, whole), withoutSimd(() => exactImage(file, whole))]
    fast.values.forEach((v, i) => expect(v).toBeCloseTo(plain.values[i]!, 6))
  }
})

test('floats lose nothing; dither and blocks lose more than rounding', async () => {
  expect((await lossOf(plan({ format: 'exr', bits: 32 }))).loss).toEqual({ rms: 0, largest: 0 })
  const plain = psnr((await lossOf(plan({}))).loss)
  const blocks = psnr((await lossOf(plan({ format: 'dds', block: 'bc4', quality: 'fast' }))).loss)
  expect(blocks).toBeLessThan(plain - 15)
  const { image } = await packedImage(plan({}), 'a', { ...whole, dither: true })
  expect(psnr(fileLoss(exactImage(plan({}), whole), image))).toBeLessThan(plain - 2)
})

test('the picture of what is lost is grey where nothing is, and amplified as much as fits', async () => {
  const { exact, image } = await lossOf(plan({}))
  const { pixels, gain } = lossPicture(exact, image)
  expect(gain).toBe(256)
  // Half a step is half a step of 255: times 256 it comes to the ends.
  const shown = [...pixels].filter((_, i) => i % 4 === 0)
  expect(Math.min(...shown)).toBeLessThan(80)
  expect(Math.max(...shown)).toBeGreaterThan(175)
  expect(new Set(lossPicture(exact, exact).pixels)).toEqual(new Set([127, 128, 255].filter((v) => v !== 127)))
})
