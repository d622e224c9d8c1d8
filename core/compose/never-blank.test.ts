import fc from 'fast-check'
import { produce } from 'immer'
import { channelOutput, formatOutput, parseOutput } from '../document/address'
import { CHANNELS } from '../document/channels'
import type { MaterialDocument } from '../document/document'
import { allLayers } from '../document/document'
import { FieldCache } from '../engine/field-cache'
import { bitsOf, documentOf } from '../testing/examples'
import { materialHere } from '../testing/material-here'
import { sheet, value } from '../testing/sheet'

/** A half-built or broken part takes no picture away: it passes through what comes in, or is left out. */
const WIDTH = 8
const channels = CHANNELS.map(({ id }) => channelOutput(id))

async function made(document: MaterialDocument, outputs: readonly string[]) {
  const { fields, faults } = await materialHere(document).evaluatePartial({
    outputs: outputs.map(parseOutput),
    width: WIDTH,
  })
  return { bits: Object.fromEntries([...fields].map(([name, field]) => [name, bitsOf(field)])), faults }
}

const noise = { type: 'noise' }
const layer = (id: string, cells: object, more: object = {}) => ({ kind: 'layer', id, name: id, cells, ...more })

it('a cell whose node lacks its input is left out, its channel is marked and the others are not', async () => {
  const cells = { height: value(0.25), roughness: value(0.75) }
  const broken = documentOf({
    nodes: { soft: { type: 'blur' } },
    layers: [layer('base', cells), layer('top', { height: { source: { node: 'soft.result' } } })],
  })
  const plain = documentOf({ layers: [layer('base', cells)] })
  const { bits, faults } = await made(broken, ['height', 'roughness', 'cell:top:height', 'soft.result'])
  expect({ height: bits.height, roughness: bits.roughness }).toEqual((await made(plain, ['height', 'roughness'])).bits)
  expect([...faults.keys()]).toEqual(['height', 'cell:top:height', 'soft.result'])
  expect(faults.get('height')).toMatchObject({
    code: 'input-missing',
    place: { document: 'test', layer: 'top', node: 'soft', parameter: 'source' },
  })
  expect(bits['soft.result']).toBeUndefined()
})

it.each([
  ['that is not known', { type: 'of-a-later-version', inputs: { source: 'noise.grey' } }],
  ['with a parameter that cannot be', { type: 'blur', params: { radius: -4 }, inputs: { source: 'noise.grey' } }],
  ['of which one input leads nowhere', { type: 'blend', inputs: { base: 'noise.grey', source: 'nobody.grey' } }],
])('a node %s passes through what comes in', async (_, node) => {
  const document = documentOf({
    nodes: { noise, broken: node },
    layers: [layer('base', { height: { source: { node: 'broken.result' } } })],
  })
  const { bits, faults } = await made(document, ['height', 'noise.grey'])
  expect(bits.height).toEqual(bits['noise.grey'])
  expect(faults.get('height')!.place.node).toBe('broken')
  expect(faults.has('noise.grey')).toBe(false)
  await expect(materialHere(document).evaluate({ outputs: [channelOutput('height')], width: WIDTH })).rejects.toThrow()
})

it('an image that cannot be had is left out with what rests on it alone, while evaluating', async () => {
  const image = { type: 'image', params: { image: `sha256:${'0'.repeat(64)}` } }
  const document = documentOf({
    nodes: { noise, image },
    layers: [
      layer('base', { height: { source: { node: 'noise.grey' } } }),
      layer('top', { height: { source: { node: 'image.grey' } }, metallic: value(1) }),
    ],
  })
  const { bits, faults } = await made(document, ['height', 'metallic', 'noise.grey'])
  expect(bits.height).toEqual(bits['noise.grey'])
  expect(bits.metallic![0]![0]).toBe(new Uint32Array(Float32Array.of(1).buffer)[0])
  expect([...faults].map(([output, { code }]) => [output, code])).toEqual([['height', 'asset-missing']])
})

it('an entry of a mask that is not finished is left out of it', async () => {
  const entry = { source: { node: 'noise.grey' } }
  const masked = (mask: object[]) =>
    documentOf({
      nodes: { noise, cut: { type: 'threshold' } },
      layers: [layer('base', { height: value(1) }, { mask })],
    })
  const { bits, faults } = await made(masked([entry, { source: { node: 'cut.result' } }]), ['height'])
  expect(bits).toEqual((await made(masked([entry]), ['height'])).bits)
  expect(faults.get('height')!.place).toMatchObject({ layer: 'base', node: 'cut' })
})

it('a dial that cannot be turns nothing, and the others turn', async () => {
  const dial = (id: string, drives: object[]) => ({ id, label: id, default: 0.5, value: 0.5, drives })
  const document = documentOf({
    layers: [layer('base', { height: value(0.1), roughness: value(0.1) })],
    dials: [
      dial('lost', [
        { node: 'nobody', field: 'gain' },
        { layer: 'base', channel: 'height', field: 'value' },
      ]),
      dial('found', [{ layer: 'base', channel: 'roughness', field: 'value' }]),
    ],
  })
  const turned = documentOf({ layers: [layer('base', { height: value(0.5), roughness: value(0.5) })] })
  const { bits, faults } = await made(document, ['height', 'roughness'])
  expect(bits).toEqual((await made(turned, ['height', 'roughness'])).bits)
  expect(faults.get('height')!.place.dial).toBe('lost')
})

it('whatever wires are taken away, every channel has a picture, and mending brings the whole back', async () => {
  const whole = sheet()
  const wires = Object.entries(whole.nodes).flatMap(([id, { inputs }]) =>
    Object.keys(inputs ?? {}).map((port) => [id, port] as const),
  )
  const session = materialHere(whole, { cache: new FieldCache(1 << 24) })
  const evaluate = async (document: MaterialDocument) => {
    session.update(document)
    const { fields, faults } = await session.evaluatePartial({ outputs: channels, width: WIDTH })
    return { bits: [...fields].map(([name, field]) => [name, bitsOf(field)]), faults }
  }
  const { bits: before } = await evaluate(whole)
  await fc.assert(
    fc.asyncProperty(fc.subarray(wires), fc.subarray(Object.keys(whole.nodes)), async (cut, gone) => {
      const broken = produce(whole, (draft) => {
        for (const [id, port] of cut) delete draft.nodes[id]!.inputs![port]
        for (const id of gone) delete draft.nodes[id]
      })
      const { bits } = await evaluate(broken)
      expect(bits.map(([name]) => name)).toEqual(channels.map(formatOutput))
      const mended = await evaluate(whole)
      expect(mended.faults.size).toBe(0)
      expect(mended.bits).toEqual(before)
    }),
    { numRuns: 25 },
  )
})

it('what closes a circle is left out of it, and told with the way round', async () => {
  const document = documentOf({
    nodes: {
      noise,
      a: { type: 'blend', inputs: { base: 'noise.grey', source: 'b.result' } },
      b: { type: 'invert', inputs: { source: 'a.result' } },
    },
    layers: [layer('base', { height: { source: { node: 'a.result' } } })],
  })
  const { bits, faults } = await made(document, ['height', 'noise.grey'])
  expect(bits.height).toEqual(bits['noise.grey'])
  expect(faults.get('height')!.detail).toContain('node a → node b → node a')
})

it('a node that shows in part lies between what comes in and what it makes of it', async () => {
  const partly = (amount: number | undefined, off = false) =>
    documentOf({
      nodes: { noise, i: { type: 'invert', inputs: { source: 'noise.grey' }, amount, off } },
      layers: [layer('base', { height: { source: { node: 'i.result' } } })],
    })
  const heights = async (document: MaterialDocument) => {
    const { fields } = await materialHere(document).evaluate({ outputs: [channelOutput('height')], width: WIDTH })
    return [...fields.get('height')!.planes[0]!]
  }
  const [plain, inverted, quarter] = [
    await heights(partly(undefined, true)),
    await heights(partly(undefined)),
    await heights(partly(0.25)),
  ]
  quarter.forEach((v, i) => expect(v).toBeCloseTo(plain[i]! * 0.75 + inverted[i]! * 0.25, 6))
  expect(await heights(partly(0))).toEqual(plain)
  expect([...allLayers(partly(1).layers)]).toHaveLength(1)
})
