import { CHANNELS } from '../document/channels'
import type { FilePlan, SlotPlan } from './packing'
import { definePacking, filesOf, parsePacking } from './packing'
import { packings } from './packings/packings.generated'
import {
  addFile,
  copySlot,
  inForm,
  putChannel,
  removeFile,
  renameFile,
  setForm,
  setSlot,
  swapSlots,
  writtenOut,
} from './edit-packing'
import fc from 'fast-check'

const channel = (id: string) => CHANNELS.find((one) => one.id === id)!
const take = (id: string, component = 0, invert = false): SlotPlan => ({ channel: id, component, invert })
const grey: FilePlan = { map: 'rough', format: 'png', bits: 8, transfer: 'raw', slots: [take('roughness')] }
const words = (files: readonly FilePlan[], map: string): string =>
  files
    .find((file) => file.map === map)!
    .slots.map((slot) =>
      'constant' in slot
        ? String(slot.constant)
        : 'follows' in slot
          ? `=${slot.follows.map}.${slot.follows.slot}`
          : `${slot.invert ? '-' : ''}${slot.channel}.${slot.component}`,
    )
    .join(' ')

describe('slots', () => {
  test('a grey file grows to what is put in, and becomes grey again when it is emptied', () => {
    const three = setSlot([grey], 'rough', 2, take('metallic'), CHANNELS)
    expect(words(three, 'rough')).toBe('roughness.0 0 metallic.0')
    const four = setSlot(three, 'rough', 3, take('opacity'), CHANNELS)
    expect(words(four, 'rough')).toBe('roughness.0 0 metallic.0 opacity.0')
    expect(words(setSlot(four, 'rough', 2, null, CHANNELS), 'rough')).toBe('roughness.0 0 0 opacity.0')
    expect(words(setSlot(setSlot(four, 'rough', 3, null, CHANNELS), 'rough', 2, null, CHANNELS), 'rough')).toBe(
      'roughness.0',
    )
  })

  test('A alone in a grey file: what lies between is black', () => {
    expect(words(setSlot([grey], 'rough', 3, take('opacity'), CHANNELS), 'rough')).toBe('roughness.0 0 0 opacity.0')
  })

  test('a channel of three planes on R fills the file; elsewhere it gives the plane of that place', () => {
    const colour = putChannel([grey], 'rough', 0, channel('colour'), CHANNELS)
    expect(words(colour, 'rough')).toBe('colour.0 colour.1 colour.2')
    expect(colour[0]!.transfer).toBe('srgb')
    expect(words(putChannel(colour, 'rough', 3, channel('normal'), CHANNELS), 'rough')).toBe(
      'colour.0 colour.1 colour.2 normal.2',
    )
    const back = putChannel(colour, 'rough', 0, channel('normal'), CHANNELS)
    expect([words(back, 'rough'), back[0]!.transfer]).toEqual(['normal.0 normal.1 normal.2', 'raw'])
  })

  test('two slots change places; an empty one takes the other’s place, and a link between them is written out', () => {
    const two = [
      { ...grey, map: 'orm', slots: [take('occlusion'), take('roughness'), take('metallic')] } as FilePlan,
      { ...grey, map: 'gloss', slots: [{ follows: { map: 'orm', slot: 1 } }] } as FilePlan,
    ]
    const at = (map: string, slot: number) => ({ map, slot })
    expect(words(swapSlots(two, at('orm', 0), at('orm', 2), CHANNELS), 'orm')).toBe(
      'metallic.0 roughness.0 occlusion.0',
    )
    const moved = swapSlots(two, at('orm', 2), at('gloss', 2), CHANNELS)
    expect([words(moved, 'orm'), words(moved, 'gloss')]).toEqual(['occlusion.0 roughness.0 0', '=orm.1 0 metallic.0'])
    const linked = swapSlots(two, at('gloss', 0), at('orm', 1), CHANNELS)
    expect([words(linked, 'orm'), words(linked, 'gloss')]).toEqual([
      'occlusion.0 roughness.0 metallic.0',
      'roughness.0',
    ])
    expect(swapSlots(two, at('orm', 1), at('orm', 1), CHANNELS)).toEqual(two)
  })

  test('a copy holds what the slot holds; a link follows it through later changes', () => {
    const two = [grey, { ...grey, map: 'gloss', slots: [take('roughness', 0, true)] as [SlotPlan] }]
    // What is carried on a screen may say more of itself.
    const from = { kind: 'slot', map: 'rough', slot: 0 }
    const copied = copySlot(two, from, { map: 'gloss', slot: 1 }, false, CHANNELS)
    const linked = copySlot(two, from, { map: 'gloss', slot: 1 }, true, CHANNELS)
    const later = (files: FilePlan[]): string =>
      JSON.stringify(filesOf({ files: setSlot(files, 'rough', 0, take('height'), CHANNELS) }, CHANNELS)[1]!.slots[1])
    expect(later(copied)).toContain('roughness')
    expect(later(linked)).toContain('height')
    // Renaming what is followed keeps the link, deleting it leaves what it held.
    expect(words(renameFile(linked, 'rough', 'r'), 'gloss')).toBe('-roughness.0 =r.0 0')
    expect(words(removeFile(linked, 'rough'), 'gloss')).toBe('-roughness.0 roughness.0 0')
  })

  test('slots that follow in a circle, or that name a missing file, are typed errors', () => {
    const one = copySlot(
      [grey, { ...grey, map: 'b' }],
      { map: 'rough', slot: 0 },
      { map: 'b', slot: 0 },
      true,
      CHANNELS,
    )
    expect(() => copySlot(one, { map: 'b', slot: 0 }, { map: 'rough', slot: 0 }, true, CHANNELS)).toThrow(
      'follows itself',
    )
    const lost = [{ ...grey, slots: [{ follows: { map: 'gone', slot: 0 } }] as [SlotPlan] }]
    expect(() => filesOf({ files: lost }, CHANNELS)).toThrow('rough R follows gone R, which does not exist')
    const second = [{ ...grey, slots: [take('roughness', 1)] as [SlotPlan] }]
    expect(() => filesOf({ files: second }, CHANNELS)).toThrow('has component 0 only')
  })
})

describe('files', () => {
  test('a format takes its usual bits where it lacks the old ones', () => {
    const exr = setForm([grey], 'rough', { format: 'exr' }, CHANNELS)
    expect(exr[0]).toMatchObject({ format: 'exr', bits: 16 })
    expect(
      setForm(setForm(exr, 'rough', { bits: 32 }, CHANNELS), 'rough', { format: 'png' }, CHANNELS)[0],
    ).toMatchObject({
      bits: 8,
    })
  })
  test('a grey file as TGA is grey in all three; a JPEG with alpha is refused in words', () => {
    expect(words(setForm([grey], 'rough', { format: 'tga' }, CHANNELS), 'rough')).toBe('roughness.0 =rough.0 =rough.0')
    const four = setSlot([grey], 'rough', 3, take('opacity'), CHANNELS)
    expect(() => setForm(four, 'rough', { format: 'jpg' }, CHANNELS)).toThrow('A JPEG has no alpha')
    expect(setForm([grey], 'rough', { format: 'jpg' }, CHANNELS)[0]!.format).toBe('jpg')
  })
  test('an encoding that somebody chose stays until the slots change', () => {
    const chosen = setForm([grey], 'rough', { transfer: 'srgb' }, CHANNELS)
    expect(chosen[0]!.transfer).toBe('srgb')
    expect(setSlot(chosen, 'rough', 0, take('height'), CHANNELS)[0]!.transfer).toBe('raw')
  })
  test('new files have names of their own, and a name that is taken is refused', () => {
    const two = addFile(addFile([], channel('roughness'), CHANNELS), channel('roughness'), CHANNELS)
    expect(two.map(({ map }) => map)).toEqual(['roughness', 'roughness-2'])
    expect(() => renameFile(two, 'roughness-2', 'roughness')).toThrow('already')
    expect(addFile([], null, CHANNELS)[0]).toMatchObject({ map: 'map', slots: [{ constant: 1 }] })
  })
  test('a file for every channel is written out as it would be made', () => {
    const separate = packings.find(({ name }) => name === 'separate-maps')!
    const own = writtenOut(separate, CHANNELS)
    expect(own.everyChannel).toBeUndefined()
    expect(filesOf(own, CHANNELS)).toEqual(filesOf(separate, CHANNELS))
    expect(() => parsePacking(JSON.parse(JSON.stringify(own)))).not.toThrow()
  })
})

test('any run of edits leaves a packing that can be kept, or says in a typed error why not', () => {
  const place = fc.record({ map: fc.constantFrom('a', 'b'), slot: fc.integer({ min: 0, max: 3 }) })
  const id = fc.constantFrom('colour', 'normal', 'roughness', 'opacity')
  const edit = fc.oneof(
    fc.tuple(fc.constant('put' as const), place, id),
    fc.tuple(fc.constant('clear' as const), place, id),
    fc.tuple(fc.constant('link' as const), place, place),
    fc.tuple(
      fc.constant('form' as const),
      place,
      fc.constantFrom('png', 'tga', 'exr', 'jpg') as fc.Arbitrary<FilePlan['format']>,
    ),
  )
  fc.assert(
    fc.property(fc.array(edit, { maxLength: 12 }), (edits) => {
      let files: FilePlan[] = [
        { ...grey, map: 'a' },
        { ...grey, map: 'b' },
      ]
      for (const one of edits)
        try {
          const [kind, at] = one
          if (kind === 'put') files = putChannel(files, at.map, at.slot, channel(one[2]), CHANNELS)
          else if (kind === 'clear') files = setSlot(files, at.map, at.slot, null, CHANNELS)
          else if (kind === 'link') files = copySlot(files, at, one[2], true, CHANNELS)
          else files = setForm(files, at.map, { format: one[2] }, CHANNELS)
          definePacking({ name: 'x', title: '', summary: '', files })
          filesOf({ files }, CHANNELS)
        } catch (error) {
          expect((error as { code: string }).code).toBe('packing-invalid')
        }
    }),
    { numRuns: 300 },
  )
})

test('a packing in one form keeps blocks where that holds them, and refuses what would lose alpha', () => {
  const named = (name: string) => packings.find((packing) => packing.name === name)!
  const png = inForm(named('blocks-y-up'), { format: 'png', bits: 16 })
  expect(new Set(png.files.map(({ format, bits, block, mips }) => [format, bits, block, mips].join()))).toEqual(
    new Set(['png,16,,']),
  )
  const ktx = inForm(named('blocks-y-up'), { format: 'ktx2', bits: 8 })
  expect(ktx.files.map(({ block, mips }) => [block, mips])).toEqual(
    named('blocks-y-up').files.map(({ block, mips }) => [block, mips]),
  )
  // A TGA has no grey: one plane stands in all three.
  const grey = inForm(named('specular-gloss'), { format: 'tga', bits: 8 }).files.find(({ map }) => map === 'occlusion')!
  expect(grey.slots).toHaveLength(3)
  const each = inForm(named('separate-maps'), { format: 'tga', bits: 8 })
  expect(each.files.map(({ slots }) => slots.length)).toEqual(CHANNELS.map(() => 3))
  expect(() => inForm(named('occlusion-rough-metal-y-up'), { format: 'jpg', bits: 8 })).toThrow('has no alpha')
})
