import type { Field } from '../field/field'
import { EXAMPLE_PART } from '../graph/example-part'
import { registry } from '../nodes/registry.generated'
import { documentOf, evaluateOutputs } from '../testing/examples'
import { CHANNELS } from './channels'
import type { MaterialDocument } from './document'
import { LIMITS } from '../limits'
import { onPart } from './domain'
import { layeredDocument } from './layered-document'

const WIDTH = 32
const domain = { kind: 'part', on: EXAMPLE_PART }
const NAMES = CHANNELS.map(({ id }) => id)
const fieldsOf = async (document: MaterialDocument): Promise<ReadonlyMap<string, Field>> =>
  (await evaluateOutputs(onPart(document, EXAMPLE_PART), NAMES, WIDTH, { node: registry.get('id-mask')! })).fields

const dial = (value: number, layer: string) => ({
  ...{ id: 'wear', label: 'Wear', min: 0, max: 1, default: 0.5, value },
  drives: [{ layer, field: 'amount' }],
})
const noise = { noise: { type: 'noise', params: { cells: [4, 4] }, at: [0, 100] } }

/** Both call their layers, nodes, named results and dials the same. */
const iron = documentOf({
  ...{ name: 'Iron', domain, seed: 7, heightMetres: 0.01, emissionStrength: 2, nodes: noise },
  taps: { grain: { node: 'noise.grey' } },
  layers: [
    {
      ...{ kind: 'layer', id: 'base', name: 'Base', amount: 0.8 },
      cells: {
        ...{
          colour: { source: { value: '#404448' } },
          height: { source: { tap: 'grain' } },
          metallic: { source: { value: 1 } },
        },
        emission: { source: { value: '#802000' } },
      },
    },
  ],
  dials: [dial(0.8, 'base')],
})
const paint = documentOf({
  ...{ name: 'Paint', domain, seed: 7, heightMetres: 0.04, emissionStrength: 8, nodes: noise },
  taps: { grain: { node: 'noise.grey' } },
  channels: { glow: { type: 'grey', backdrop: 0.25 } },
  layers: [
    {
      ...{ kind: 'layer', id: 'base', name: 'Base', amount: 0.3 },
      cells: {
        ...{ colour: { source: { value: '#203060' } }, roughness: { source: { tap: 'grain' }, blend: 'screen' } },
        ...{ height: { source: { node: 'noise.grey' } }, glow: { source: { value: 0.5 } } },
      },
    },
  ],
  dials: [dial(0.3, 'base')],
})
const ids = { kind: 'island-id', numbers: [2] } as const

test('each material shows on its IDs what it shows by itself, with the depth and strength of all', async () => {
  const layered = layeredDocument([{ document: iron }, { document: paint, ids: { ...ids, numbers: [2] } }], 'Post')
  expect(layered).toMatchObject({ name: 'Post', heightMetres: 0.04, emissionStrength: 8 })
  expect(layered.layers.map(({ name, kind }) => [name, kind])).toEqual([
    ['Iron', 'group'],
    ['Paint', 'group'],
  ])
  const [all, below, above] = [await fieldsOf(layered), await fieldsOf(iron), await fieldsOf(paint)]
  for (const channel of CHANNELS) {
    // What is made of the heights of both reads over the border between them.
    if (channel.derived || channel.takesHeight) continue
    const [by, middle] = channel.isHeight ? [0.25, 0.5] : channel.id === 'emission' ? [0.25, 0] : [1, 0]
    const planes = (fields: ReadonlyMap<string, Field>, p: number): Float32Array => fields.get(channel.id)!.planes[p]!
    for (let p = 0; p < all.get(channel.id)!.planes.length; p++)
      for (let i = 0; i < WIDTH * WIDTH; i++) {
        const isIron = i % WIDTH < WIDTH / 2
        const at = (fields: ReadonlyMap<string, Field>): number =>
          planes(fields, p)[fields.get(channel.id)!.stride === 0 ? i % WIDTH : i]!
        const expected = isIron ? middle + (at(below) - middle) * by : at(above)
        expect(Math.abs(at(all) - expected) < 1e-5 ? '' : `${channel.id} ${p} ${i}: ${at(all)} for ${expected}`).toBe(
          '',
        )
      }
  }
})

test('dials turn their own material only, in sections of its name, and values stay', () => {
  const layered = layeredDocument([{ document: iron }, { document: paint, ids: { ...ids, numbers: [2] } }], 'Post')
  expect(layered.dials.map(({ section, value, drives }) => [section, value, drives.length])).toEqual([
    ['Iron', 0.8, 1],
    ['Paint', 0.3, 1],
  ])
  const [a, b] = layered.dials.map(({ drives }) => (drives[0] as { layer: string }).layer)
  expect(a).not.toBe(b)
  // It is laid on top of like any other.
  expect(() =>
    documentOf({ ...layered, layers: [...layered.layers, { kind: 'layer', id: 'top', name: 'Top' }] }),
  ).not.toThrow()
})

test('two materials of one name keep their dials apart', () => {
  const other = documentOf({ ...paint, name: 'Iron' })
  const layered = layeredDocument([{ document: iron }, { document: other, ids: { ...ids, numbers: [2] } }], 'Post')
  expect(layered.dials.map(({ section, value, drives }) => [section, value, drives.length])).toEqual([
    ['Iron', 0.8, 1],
    ['Iron 2', 0.3, 1],
  ])
})

test('channels of one name that hold different things are refused, and so is more than a document may hold', () => {
  const coloured = documentOf({ domain, channels: { glow: { type: 'colour', backdrop: '#000000' } } })
  expect(() => layeredDocument([{ document: paint }, { document: coloured }], 'Post')).toThrow('hold different things')
  const held = documentOf({ ...paint, normalsHoldHeight: true })
  expect(() => layeredDocument([{ document: iron }, { document: held }], 'Post')).toThrow('“Iron” and “Paint”')
  // In a group of its own it would lie one deeper than groups may.
  let inside: object = { kind: 'layer', id: 'deep', name: 'Deep' }
  for (let k = 0; k < LIMITS.document.groupDepth - 1; k++)
    inside = { kind: 'group', id: `g${k}`, name: `G ${k}`, layers: [inside] }
  const deep = documentOf({ domain, layers: [inside] })
  expect(() =>
    layeredDocument([{ document: paint }, { document: deep, ids: { ...ids, numbers: [2] } }], 'Post'),
  ).toThrow('at most')
})
