import { channelOutput } from '../document/address'
import { EXAMPLE_PART } from '../graph/example-part'
import type { MaterialDocument } from '../document/document'
import type { Field } from '../field/field'
import { createField } from '../field/field'
import { documentOf } from '../testing/examples'
import type { ChannelSource } from './channel-source'
import { jointSource } from './joint-source'

const [WIDTH, HEIGHT] = [4, 4]
const on = { kind: 'part', on: EXAMPLE_PART }

/** A material whose channels have one value each, in bands of a row; `asked` are the channels that it was asked for. */
function plain(document: MaterialDocument, value: number) {
  const asked: string[][] = []
  const source: ChannelSource = {
    document,
    sizeAt: () => ({ width: WIDTH, height: HEIGHT }),
    workOf: ({ outputs }) => Object.fromEntries(outputs.map((one) => [(one as { channel: string }).channel, 2])),
    contentKeys: ({ outputs }) =>
      Object.fromEntries(outputs.map((one) => [(one as { channel: string }).channel, `${document.name} ${value}`])),
    evaluateBands: async ({ outputs }, sink) => {
      const names = outputs.map((one) => (one as { channel: string }).channel)
      asked.push(names)
      for (let top = 0; top < HEIGHT; top++) {
        const fields = names.map((name): [string, Field] => {
          const type = name === 'colour' || name === 'emission' ? 'colour' : 'grey'
          const field = createField(type, WIDTH, HEIGHT, { top, rows: 1 })
          field.planes.forEach((plane) => plane.fill(value))
          return [name, field]
        })
        await sink(new Map(fields), { top, rows: 1 })
      }
      return { evaluated: [document.name], reused: 0, bands: HEIGHT, forecastBytes: 8, peakBytes: 8 }
    },
  }
  return { source, asked }
}

/** The left half is of the first, the right half of the second. */
const halves = {
  members: [{ part: 'Left' }, { part: 'Right' }],
  of: async () => Uint8Array.from({ length: WIDTH * HEIGHT }, (_, i) => Number(i % WIDTH >= WIDTH / 2)),
}
const low = documentOf({ name: 'Low', domain: on, heightMetres: 0.01, emissionStrength: 2 })
const high = documentOf({
  ...{ name: 'High', domain: on, heightMetres: 0.04, emissionStrength: 8 },
  channels: { glow: { type: 'grey', backdrop: 0.25 } },
})
const request = (...names: string[]) => ({ outputs: names.map(channelOutput), width: WIDTH })

async function row(joint: ChannelSource, ...names: string[]): Promise<Record<string, number[]>> {
  const found: Record<string, number[]> = {}
  await joint.evaluateBands(request(...names), (fields) => {
    for (const [name, field] of fields) found[name] = [...field.planes[0]!.subarray(0, WIDTH)]
  })
  return found
}

test('each material has its texels; heights come to the largest depth and emission to the largest strength', async () => {
  const [a, b] = [plain(low, 1), plain(high, 0.75)]
  const joint = jointSource([a.source, b.source], halves)
  expect([joint.document.heightMetres, joint.document.emissionStrength]).toEqual([0.04, 8])
  const made = await row(joint, 'colour', 'height', 'emission', 'glow')
  expect(made.colour).toEqual([1, 1, 0.75, 0.75])
  // 5 mm above the surface of 10 mm are an eighth above the middle of 40 mm.
  expect(made.height).toEqual([0.625, 0.625, 0.75, 0.75])
  expect(made.emission).toEqual([0.25, 0.25, 0.75, 0.75])
  // Who lacks a channel has its backdrop, and is not asked for it.
  expect(made.glow).toEqual([0.25, 0.25, 0.75, 0.75])
  expect(a.asked).toEqual([['colour', 'height', 'emission']])
  expect(joint.workOf(request('colour', 'glow'))).toEqual({ colour: 4, glow: 2 })
})

test('a material without texels is not evaluated, and one that differs in kind is refused', async () => {
  const [a, b] = [plain(low, 1), plain(high, 0.75)]
  await row(jointSource([a.source, b.source], { ...halves, of: async () => new Uint8Array(WIDTH * HEIGHT) }), 'colour')
  expect([a.asked.length, b.asked.length]).toEqual([1, 0])
  const coloured = documentOf({ domain: on, channels: { glow: { type: 'colour', backdrop: '#000000' } } })
  expect(() => jointSource([b.source, plain(coloured, 1).source], halves)).toThrow('hold different things')
})

test('what a map holds has another key where it changes, and keeps it where only others do', () => {
  const keysOf = (first: MaterialDocument, more: Partial<typeof halves> = {}) =>
    jointSource([plain(first, 1).source, plain(high, 0.75).source], { ...halves, ...more }).contentKeys(
      request('colour', 'height'),
    )
  const before = keysOf(low)
  const deeper = keysOf({ ...low, heightMetres: 0.02 })
  expect(deeper.colour).toBe(before.colour)
  expect(deeper.height).not.toBe(before.height)
  // Other texels are another picture, baked data that tell no texels apart are not.
  const ids = { kind: 'piece-id' as const, numbers: [1] }
  expect(keysOf(low, { members: [{ part: 'Left' }, { part: 'Right', ids }] as never }).colour).not.toBe(before.colour)
  const again = { ...EXAMPLE_PART, data: { ...EXAMPLE_PART.data, 'island-id': 'other' } }
  expect(keysOf({ ...low, domain: { kind: 'part', on: again } }).colour).toBe(before.colour)
})

test('too little memory, and a cancel between materials, are told', async () => {
  const joint = jointSource([plain(low, 1).source, plain(high, 1).source], halves)
  const none = async (): Promise<void> => {}
  await expect(joint.evaluateBands({ ...request('colour'), budgetBytes: 300 }, none)).rejects.toMatchObject({
    code: 'memory-budget',
  })
  await expect(joint.evaluateBands({ ...request('colour'), isCancelled: () => true }, none)).rejects.toMatchObject({
    code: 'cancelled',
  })
})
