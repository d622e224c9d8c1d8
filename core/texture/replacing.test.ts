import type { FileToReplace } from './replacing'
import { replacing } from './replacing'
import { fileNames } from './packing'

const plane = (channel: string | null, component = 0, inverted = false) => ({ channel, component, inverted })
const three = (channel: string) => [0, 1, 2].map((component) => plane(channel, component))
const file = (name: string, more: Partial<FileToReplace>): FileToReplace => ({
  name,
  ...{ width: 64, height: 32, channels: 3, form: { format: 'png', bits: 8 } },
  ...{ transfer: 'raw', slots: [], means: [0.1, 0.2, 0.3, 0.4] },
  ...more,
})
const set = new Set(['colour', 'roughness', 'metallic', 'normal'])
const BC5 = { format: 'dds', bits: 8, block: 'bc5', mips: true } as const

test('files keep their names, forms and meanings, by sizes, the largest first; unknown planes keep their mean', () => {
  const { replacements, left } = replacing(
    [
      file('Crate rough (2).TGA', {
        form: { format: 'tga', bits: 8 },
        channels: 4,
        slots: [plane('roughness'), plane(null), plane('metallic', 0, true)],
      }),
      file('crate_n.dds', { width: 128, height: 64, form: BC5, slots: [plane('normal', 0), plane('normal', 1, true)] }),
      file('crate_height.png', { channels: 1, slots: [plane('height')] }),
      file('noise.png', {}),
      file('crate.webp', { slots: three('colour'), form: { problem: 'only read' } }),
    ],
    set,
    'In place',
  )
  expect(replacements.map(({ width, height }) => [width, height])).toEqual([
    [128, 64],
    [64, 32],
  ])
  const [large, small] = replacements.map(({ packing }) => packing)
  expect(large!.files[0]).toMatchObject({ name: 'crate_n.dds', ...BC5 })
  expect(large!.files[0]!.slots).toEqual([
    { channel: 'normal', component: 0, invert: false },
    { channel: 'normal', component: 1, invert: true },
    { constant: 0.3 },
  ])
  expect(small!.files[0]!.slots).toEqual([
    { channel: 'roughness', component: 0, invert: false },
    { constant: 0.2 },
    { channel: 'metallic', component: 0, invert: true },
    { constant: 0.4 },
  ])
  expect(fileNames(small!.pattern, small!.files as never, { size: 64 })).toEqual(['Crate rough (2).TGA'])
  expect(left).toEqual([
    { name: 'crate_height.png', why: 'it holds height, which the set has not' },
    { name: 'noise.png', why: 'nothing tells what it holds' },
    { name: 'crate.webp', why: 'only read' },
  ])
})

test('beside specular colours the other colour is what is diffuse; a grey of three planes is in all of them', () => {
  const grey = file('gloss.png', { slots: [plane('roughness', 0, true)] })
  const { replacements } = replacing(
    [file('d.png', { slots: three('colour') }), file('s.png', { slots: three('specular') }), grey],
    new Set(['diffuse', 'specular', 'roughness']),
    'In place',
  )
  const [diffuse, specular, gloss] = replacements[0]!.packing.files
  expect([diffuse!.slots[0], specular!.slots[0]]).toMatchObject([{ channel: 'diffuse' }, { channel: 'specular' }])
  expect(new Set(gloss!.slots.map((slot) => JSON.stringify(slot))).size).toBe(1)
})

test.each(['a/b.png', '..', 'record.json', '.png', 'a\\b.png', 'a\n.png'])('a file cannot be called %j', (name) => {
  const wanted = () => replacing([file(name, { slots: three('colour') })], set, 'In place')
  expect(wanted).toThrow(expect.objectContaining({ code: 'packing-invalid' }))
})
