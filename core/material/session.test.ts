import { produce } from 'immer'
import fc from 'fast-check'
import { channelOutput } from '../document/address'
import { CHANNELS } from '../document/channels'
import type { Layer, MaterialDocument } from '../document/document'
import { allLayers } from '../document/document'
import { FieldCache } from '../engine/field-cache'
import type { Field } from '../field/field'
import { Composition } from '../compose/composition'
import { registry } from '../nodes/registry.generated'
import { bitsOf, documentOf } from '../testing/examples'
import { limitDocument } from '../testing/limit-document'
import { materialHere } from '../testing/material-here'
import { sheet } from '../testing/sheet'

const outputs = CHANNELS.map(({ id }) => channelOutput(id))
const bits = (fields: ReadonlyMap<string, Field>) => [...fields].map(([name, field]) => [name, bitsOf(field)])
const WIDTH = 8

type Edit = (draft: MaterialDocument, value: number) => void

const layerNamed = (draft: MaterialDocument, id: string): Layer =>
  [...allLayers(draft.layers)].find((layer) => layer.id === id)!
const EDITS: Readonly<Record<string, Edit>> = {
  'a parameter': (draft, v) => (draft.nodes.soft!.params = { radius: 0.01 + v / 10 }),
  'another parameter': (draft, v) => (draft.nodes.noise!.params = { gain: v }),
  'a dial': (draft, v) => (draft.dials[0]!.value = v),
  'an amount': (draft, v) => (layerNamed(draft, 'rust').amount = v),
  'the amount of a group': (draft, v) => (layerNamed(draft, 'wear').amount = v),
  'the amount of a mask entry': (draft, v) => (layerNamed(draft, 'wear').mask[0]!.amount = v),
  'the amount of a cell': (draft, v) => (cellOf(draft, 'dust', 'height').amount = v),
  'a plain value': (draft, v) => (cellOf(draft, 'base', 'roughness').source = { value: v }),
  'a colour': (draft, v) => (cellOf(draft, 'base', 'colour').source = { value: v > 0.5 ? '#336699' : '#808080' }),
  'a blend mode': (draft, v) => (cellOf(draft, 'rust', 'colour').blend = v > 0.5 ? 'multiply' : 'normal'),
  'something off': (draft, v) => (layerNamed(draft, 'dust').off = v > 0.5),
  'a wire': (draft, v) => (draft.nodes.tint!.inputs = { source: v > 0.5 ? 'noise.grey' : 'soft.result' }),
  'a closed group': (draft, v) => ((layerNamed(draft, 'wear') as { closed: boolean }).closed = v > 0.5),
  'the amount of a node': (draft, v) => (draft.nodes.soft!.amount = v),
  'a broken parameter': (draft, v) => (draft.nodes.soft!.params = { radius: v > 0.5 ? -1 : 0.02 }),
  'a node off': (draft, v) => (draft.nodes.soft!.off = v > 0.5),
  'the height': (draft, v) => (draft.heightMetres = 0.01 + v / 10),
}
const cellOf = (draft: MaterialDocument, layer: string, channel: string) =>
  (layerNamed(draft, layer) as { cells: Record<string, { source: object; amount: number; blend: string }> }).cells[
    channel
  ]!

test('whatever is edited, and in which order, the result is that of a document just opened', async () => {
  const names = Object.keys(EDITS)
  const edit = fc.record({ name: fc.constantFrom(...names), value: fc.constantFrom(0, 0.25, 0.5, 0.75, 1) })
  await fc.assert(
    fc.asyncProperty(fc.array(edit, { minLength: 1, maxLength: 6 }), async (edits) => {
      let document = sheet()
      const session = materialHere(document, { cache: new FieldCache(1 << 24) })
      await session.evaluatePartial({ outputs, width: WIDTH })
      for (const { name, value } of edits) {
        document = produce(document, (draft) => void EDITS[name]!(draft, value))
        session.update(document)
        const [followed, fresh] = await Promise.all([
          session.evaluatePartial({ outputs, width: WIDTH }),
          materialHere(document, { cache: new FieldCache(1 << 24) }).evaluatePartial({ outputs, width: WIDTH }),
        ])
        expect(bits(followed.fields)).toEqual(bits(fresh.fields))
        expect([...followed.keys]).toEqual([...fresh.keys])
        expect([...followed.faults.keys()]).toEqual([...fresh.faults.keys()])
      }
    }),
    { numRuns: 25 },
  )
})

test('numbers keep the graph; wires, modes and what leaves steps out make another', () => {
  const keeps = (name: string, value: number): boolean => {
    const composition = new Composition(sheet(), registry)
    outputs.forEach((output) => composition.ref(output))
    const before = composition.graph.steps.length
    const followed = composition.follow(produce(sheet(), (draft) => void EDITS[name]!(draft, value)))
    expect(composition.graph.steps).toHaveLength(before)
    return followed
  }
  for (const name of ['a parameter', 'another parameter', 'a dial', 'a plain value', 'a colour'])
    expect([name, keeps(name, 0.6)]).toEqual([name, true])
  for (const name of [
    'a blend mode',
    'something off',
    'a wire',
    'a closed group',
    'a node off',
    'the height',
    'an amount',
  ])
    expect([name, keeps(name, 0.6)]).toEqual([name, false])
})

test('an evaluation under way is that of the document as it was', async () => {
  const before = sheet()
  const after = produce(before, (draft) => void EDITS['another parameter']!(draft, 0.9))
  const session = materialHere(before)
  const whole = session.evaluate({ outputs, width: WIDTH, budgetBytes: 1 << 20 })
  session.update(after)
  const next = session.evaluate({ outputs, width: WIDTH })
  expect(bits((await whole).fields)).toEqual(
    bits((await materialHere(before).evaluate({ outputs, width: WIDTH })).fields),
  )
  expect(bits((await next).fields)).toEqual(
    bits((await materialHere(after).evaluate({ outputs, width: WIDTH })).fields),
  )
})

test('an image that is gone through by a dial is loaded once for each', async () => {
  let loads = 0
  const images = {
    load: async () => {
      loads++
      return { width: 2, height: 2, channels: 1 as const, bits: 8 as const, float: false, values: new Float32Array(4) }
    },
  }
  const named = (image: string): MaterialDocument =>
    documentOf({
      nodes: { photo: { type: 'image', params: { image } } },
      layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { colour: { source: { node: 'photo.colour' } } } }],
    })
  const session = materialHere(named('a.png'), { images })
  for (const image of ['a.png', 'b.png', 'a.png', 'b.png', 'a.png']) {
    session.update(named(image))
    await session.evaluate({ outputs, width: WIDTH })
  }
  expect(loads).toBe(2)
})

test('what records hold as keys is as it always was', () => {
  const { colour, roughness } = materialHere(sheet()).contentKeys({ outputs, width: 64 })
  expect(colour).toMatch(/^[0-9a-f]{64}@64x64\.result$/)
  expect(roughness).not.toBe(colour)
  expect(materialHere(sheet()).contentKeys({ outputs, width: 64 }).colour).toBe(colour)
})

test('the largest document is one session: its graph, and after a number the same graph', () => {
  const document = limitDocument(1000, 256)
  const composition = new Composition(document, registry)
  for (const output of outputs) composition.ref(output)
  const { length } = composition.graph.steps
  expect(length).toBeGreaterThan(3000)
  const turned = produce(document, (draft) => void (draft.nodes.n20!.params = { mode: 'multiply', amount: 0.6 }))
  expect(composition.follow(turned)).toBe(true)
  expect(composition.graph.steps).toHaveLength(length)
})
