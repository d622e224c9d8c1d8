import fc from 'fast-check'
import type { Field } from '../field/field'
import { createField } from '../field/field'
import { channelsOf } from '../document/channels'
import { withoutSimd } from '../kernels/simd'
import { randomNumbers } from '../testing/random-values'
import { documentOf } from '../testing/examples'
import { codeBand } from './code-band'
import { depthOf, writtenFormat, writtenFormats } from './format-registry'
import type { FileShape } from './file-format'
import type { PackedFile, Slot } from './packing'

const channels = new Map(channelsOf(documentOf({})).map((channel) => [channel.id, channel]))
const host = { deflate: (bytes: Uint8Array) => bytes }

/** Channels of any value, within 0–1 and beyond. */
function randomFields(width: number, height: number, seed: number): Map<string, Field> {
  const random = randomNumbers(seed)
  return new Map(
    [...channels.values()].map(({ id, type }) => {
      const field = createField(type, width, height)
      for (const plane of field.planes) for (let i = 0; i < plane.length; i++) plane[i] = random() * 1.4 - 0.2
      return [id, field]
    }),
  )
}

const slot: fc.Arbitrary<Slot> = fc.oneof(
  fc.record({ constant: fc.constantFrom(0, 0.5, 1) }),
  fc.record({
    channel: fc.constantFrom('roughness', 'height', 'occlusion'),
    component: fc.constant(0),
    invert: fc.boolean(),
  }),
  fc.record({
    channel: fc.constantFrom('colour', 'normal'),
    component: fc.constantFrom(0, 1, 2),
    invert: fc.boolean(),
  }),
) as fc.Arbitrary<Slot>

test('every format: rows packed, rounded and coded by the twins are those of the definitions', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...writtenFormats.filter(({ lossy }) => !lossy)),
      fc.constantFrom(1, 3, 4 as const),
      fc.array(slot, { minLength: 4, maxLength: 4 }),
      fc.constantFrom('srgb', 'raw' as const),
      fc.boolean(),
      fc.integer({ min: 1, max: 30 }),
      fc.integer({ min: 1, max: 70 }),
      fc.integer(),
      (format, count, slots, transfer, dither, height, width, seed) => {
        const channelCount = count === 1 && !format.write.grey ? 3 : count === 4 && !format.write.alpha ? 3 : count
        for (const depth of format.write.depths) {
          const file = {
            map: 'any',
            format: format.name,
            bits: depth.bits,
            transfer,
            slots: slots.slice(0, channelCount),
          } as unknown as PackedFile
          const shape: FileShape = {
            width,
            height,
            channels: channelCount as FileShape['channels'],
            depth: depthOf(writtenFormat(format.name), depth.bits)!,
            srgb: transfer === 'srgb',
          }
          const fields = randomFields(width, height, seed)
          const plan = { file, shape, channels, heightMetres: 0.04, dither }
          const top = format.write.blockRows > 1 ? 0 : Math.min(height - 1, 3)
          const run = () => ({
            ...codeBand({ plan, fields, top, rows: height - top, above: null }, host),
            milliseconds: 0,
          })
          expect(run()).toEqual(withoutSimd(run))
        }
      },
    ),
    { numRuns: 60 },
  )
})
