import { deliveryRecordOf } from '../testing/delivery-record'
import { sheet } from '../testing/sheet'
import { deliveryText } from './delivery-text'
import { packings } from './packings/packings.generated'

const [dial] = sheet().dials
const slab = {
  ...sheet(),
  name: 'Slab',
  heightMetres: 0.045,
  emissionStrength: 4,
  dials: [{ ...dial!, label: 'Time', min: 0, max: 2 }],
}

const textOf = (name: string, sharpen?: number): string => {
  const packing = packings.find((one) => one.name === name)!
  const record = deliveryRecordOf(packing, slab, sharpen)
  return deliveryText(record, slab)
}

test('whoever brings the files into an engine reads what every slot holds, the direction of green, and the strength', () => {
  const text = textOf('occlusion-rough-metal-y-up', 0.3)
  expect(text).toContain('Slab, 512 × 256')
  expect(text).toMatch(
    /Slab_occlusion-rough-metal\.png: PNG, 8-bit, plain values\n {2}red: Occlusion\n {2}green: Roughness\n {2}blue: Metallic\n/,
  )
  expect(text).toContain('green: Base colour green')
  expect(text).toContain('Normals: Y points up (green).')
  expect(text).toContain('Emission: multiply by 4, its strength.')
  expect(text).toContain('sharpened by 30 %')
  expect(text).not.toContain('Height:')
})

test('every packing is told in full: each file with all its slots, and height only where it is held', () => {
  for (const packing of packings) {
    const text = textOf(packing.name)
    const { files } = deliveryRecordOf(packing, slab)
    for (const file of files) expect(text).toContain(`\n${file.name}: `)
    expect(text.match(/^ {2}(red|green|blue|alpha|grey): .+$/gm)).toHaveLength(
      files.reduce((count, { slots }) => count + slots.length, 0),
    )
    const holdsHeight = files.some(({ slots }) => slots.some(({ channel }) => channel === 'height'))
    expect(text.includes('Height: 0 is lowest, 1 highest, 0.045 m apart')).toBe(holdsHeight)
    expect(text).not.toMatch(/undefined|null|NaN/)
  }
})

test('frames are told: how many, in which order, and what goes on in them', () => {
  expect(textOf('frames')).toContain(
    'Frames: 4 across and 4 down, row by row from the top left; “Time” goes from 0 towards 2, where it begins again.',
  )
  expect(textOf('separate-maps')).not.toContain('Frames')
})
