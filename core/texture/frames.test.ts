import { documentOf } from '../testing/examples'
import { deliverHere } from '../testing/deliver-here'
import { readWithOiio } from '../testing/oiio'
import type { Frames } from './packing'
import { definePacking } from './packing'
import { packings } from './packings/packings.generated'
import { frameDocuments } from './frames'

const packed = (frames: Frames) =>
  definePacking({
    name: 'sheet',
    title: 'Sheet',
    summary: '',
    frames,
    files: [{ map: 'glow', transfer: 'raw', format: 'png', bits: 8, slots: [{ channel: 'roughness' }] }],
  })
const frames: Frames = { columns: 4, rows: 2, dial: 'time', loops: true }

/** Roughness is what the dial says. */
const turning = documentOf({
  domain: { kind: 'tile', metres: [2, 1] },
  layers: [{ kind: 'layer', id: 'base', name: 'Base', cells: { roughness: { source: { value: 0 } } } }],
  dials: [
    {
      id: 'd1',
      label: 'Time',
      kind: 'number',
      min: 0.2,
      max: 1,
      default: 0.2,
      value: 0.9,
      drives: [{ layer: 'base', channel: 'roughness', field: 'value' }],
    },
  ],
})

test('frames lie row by row and turn the dial from end to end; one that goes round ends a step before', async () => {
  const { files, record } = await deliverHere(turning, packed(frames), { width: 64 })
  // Each frame is twice as wide as high: 16 × 8, four across and two down.
  const { info, planes } = readWithOiio(files.get('test_glow.png')!, 'png')
  expect(info).toMatch(/64 x +16, 1 channel/)
  for (let y = 0; y < 16; y++)
    for (let x = 0; x < 64; x++) {
      const k = Math.floor(y / 8) * 4 + Math.floor(x / 16)
      expect(Math.abs(planes[0]![y * 64 + x]! - (0.2 + 0.1 * k))).toBeLessThan(0.501 / 255)
    }
  // The material itself is recorded as it stands.
  expect(record.document).toMatchObject({ dials: [{ value: 0.9 }] })
  expect(record.packing.frames).toEqual(frames)
  const ends = frameDocuments(turning, { ...frames, loops: false }).map(({ dials }) => dials[0]!.value)
  expect([ends[0], ends.at(-1)]).toEqual([0.2, 1])
})

test('what files hold has one key, whatever the dial stands at; another way to play has another', async () => {
  const keyOf = async (document: typeof turning, of: Frames) =>
    (await deliverHere(document, packed(of), { width: 64 })).record.files[0]!.key
  const key = await keyOf(turning, frames)
  const other = structuredClone(turning)
  other.dials[0]!.value = 0.4
  expect(await keyOf(other, frames)).toBe(key)
  expect(await keyOf(turning, { ...frames, loops: false })).not.toBe(key)
  expect(await keyOf(turning, { ...frames, columns: 2, rows: 4 })).not.toBe(key)
})

test('what cannot be is told: no such dial, no whole frames, too large for the memory; the material stays as it is', async () => {
  const shipped = packings.find(({ name }) => name === 'frames')!
  await expect(deliverHere(documentOf({}), shipped)).rejects.toThrow('a dial called “Time”')
  await expect(deliverHere(turning, packed({ ...frames, dial: 'Speed' }))).rejects.toThrow(
    'its own in the packing: Time',
  )
  await expect(deliverHere(turning, packed({ ...frames, columns: 3 }))).rejects.toMatchObject({ code: 'size-invalid' })
  await expect(deliverHere(turning, packed(frames), { width: 1024, budgetBytes: 1_500_000 })).rejects.toMatchObject({
    code: 'memory-budget',
  })
})
