import { deliverHere } from '#core/testing/deliver-here'
import { documentOf } from '#core/testing/examples'
import { packings } from './packings/packings.generated'
import { keptFiles, sharedOut } from './kept-file'
import { parseRecord } from './record'

const packing = packings.find(({ name }) => name === 'occlusion-rough-metal-y-up')!
const sheet = (colour: string, roughness = 0.4) =>
  documentOf({
    nodes: { noise: { type: 'noise', params: { cells: [4, 4] } } },
    layers: [
      {
        kind: 'layer',
        id: 'a',
        name: 'a',
        cells: {
          colour: { source: { value: colour } },
          roughness: { source: { value: roughness } },
          height: { source: { node: 'noise.grey' } },
        },
      },
    ],
  })

/** A second delivery that may take what a first one holds. */
async function again(first: Awaited<ReturnType<typeof deliverHere>>, ...asked: Parameters<typeof deliverHere>) {
  const copied: string[] = []
  const kept = keptFiles([{ record: first.record, from: 'first' }], async (_, index, output) => {
    const { name } = first.record.files[index]!
    copied.push(name)
    output.append(first.files.get(name)!)
  })
  const [document, by, more] = asked
  return { ...(await deliverHere(document, by, { ...more, kept })), copied }
}

it('only what changed is made; what is kept is the same, byte for byte', async () => {
  const first = await deliverHere(sheet('#804020'), packing)
  expect(first.times.every(({ kept, seconds }) => !kept && seconds >= 0)).toBe(true)
  const second = await again(first, sheet('#208040'), packing)
  const fresh = await deliverHere(sheet('#208040'), packing)
  expect(second.times.filter(({ kept }) => !kept).map(({ map }) => map)).toEqual(['colour'])
  expect(second.files).toEqual(fresh.files)
  expect(second.record).toEqual(fresh.record)
  // Nothing that only the kept files need is evaluated.
  expect(second.report.evaluated).not.toContain('height-to-occlusion')
  expect(fresh.report.evaluated).toContain('height-to-occlusion')
})

it('what changes a file without its channels makes it anew: form, size, sharpening', async () => {
  const first = await deliverHere(sheet('#804020'), packing)
  const copiedBy = async (more: object, by = packing) => (await again(first, sheet('#804020'), by, more)).copied.length
  expect(await copiedBy({})).toBe(first.record.files.length)
  expect(await copiedBy({ width: 32 })).toBe(0)
  expect(await copiedBy({ dither: true })).toBeLessThan(first.record.files.length)
  const deep = { ...packing, files: packing.files.map((file) => ({ ...file, bits: 16 as const })) }
  expect(await copiedBy({}, deep)).toBe(0)
  // Another name alone changes nothing.
  expect(await copiedBy({}, { ...packing, pattern: 'x_{map}' })).toBe(first.record.files.length)
})

it('a kept file that is damaged is refused, and old records without keys keep nothing', async () => {
  const first = await deliverHere(sheet('#804020'), packing)
  const kept = keptFiles([{ record: first.record, from: 0 }], async (_, __, output) => output.append(new Uint8Array(3)))
  await expect(deliverHere(sheet('#804020'), packing, { kept })).rejects.toMatchObject({ code: 'file-invalid' })
  const old = parseRecord(
    JSON.parse(JSON.stringify({ ...first.record, files: first.record.files.map(({ key: _, ...file }) => file) })),
  )
  expect(keptFiles([{ record: old, from: 0 }], async () => {}).size).toBe(0)
})

it('time is shared out by weight, evenly where there is none', () => {
  expect(sharedOut(10, [1, 3, 0])).toEqual([2.5, 7.5, 0])
  expect(sharedOut(9, [0, 0, 0])).toEqual([3, 3, 3])
})
