import { CHANNELS, OPTIONAL_CHANNELS, optionalChannel } from '../document/channels'
import { derived } from '../document/derived/derived.generated'
import type { Field } from '../field/field'
import { isDefaultNode } from '../graph/ports'
import { EXAMPLE_PART } from '../graph/example-part'
import { registry } from '../nodes/registry.generated'
import { documentOf, evaluateOutputs } from '../testing/examples'

const WIDTH = 64
const upward = { type: 'grey', backdrop: 0 }
const onPart = (more: object) => documentOf({ domain: { kind: 'part', on: EXAMPLE_PART }, ...more })
const values = (field: Field | undefined): number[] => [...field!.planes[0]!]

/** Outputs of a document on the example’s part, whose mesh data are known by formulas. */
async function made(document: ReturnType<typeof onPart>, outputs: string[]) {
  const { fields } = await evaluateOutputs(document, outputs, WIDTH, { node: registry.get('facing')! })
  return outputs.map((name) => fields.get(name))
}

test('what a part lacks of a channel is made of its mesh data, until a layer writes to it', async () => {
  const normals = { type: 'mesh-data', params: { kind: 'object-normal' } }
  const parts = { type: 'split', inputs: { source: 'normals.normal' } }
  const [facing, y] = await made(onPart({ channels: { upward }, nodes: { normals, parts } }), [
    'upward',
    'parts.second',
  ])
  expect(Math.max(...values(facing))).toBeGreaterThan(0.3)
  values(facing).forEach((v, i) => expect(v).toBeCloseTo(values(y)[i]!, 6))
  const layer = { kind: 'layer', id: 'own', name: 'Own', cells: { upward: { source: { value: 0.25 } } } }
  const [own] = await made(onPart({ channels: { upward }, layers: [layer] }), ['upward'])
  expect(new Set(values(own))).toEqual(new Set([0.25]))
})

test('the tint is evened where that channel is there, highlights go where surfaces face up in any case', async () => {
  const outputs = ['specular-tint', 'diffuse', 'diffuse-highlights']
  const [plain, diffuse, painted] = await made(onPart({}), outputs)
  expect(new Set(values(plain)).size).toBe(1)
  const added = values(painted).map((v, i) => v - values(diffuse)[i % values(diffuse).length]!)
  expect(Math.min(...added)).toBe(0)
  expect(Math.max(...added)).toBeGreaterThan(0.01)
  const [evened] = await made(onPart({ channels: { upward } }), outputs)
  expect(Math.max(...values(evened))).toBeCloseTo(values(plain)[0]!, 6)
  expect(Math.min(...values(evened))).toBeLessThan(values(plain)[0]! * 0.7)
})

test('a colour of one’s own by the name of a known grey counts as its brightness', async () => {
  const of = async (channels: object) => {
    const { fields } = await evaluateOutputs(documentOf({ channels }), ['specular-tint'], 1)
    return values(fields.get('specular-tint'))
  }
  const colour = await of({ 'specular-level': { type: 'colour', backdrop: '#ffffff' } })
  expect(colour).toEqual(await of({}))
  expect(colour).not.toEqual(await of({ 'specular-level': { type: 'grey', backdrop: 0.5 } }))
})

test('what is made of other channels names channels and ports that there are', () => {
  const known = new Set([...CHANNELS, ...derived, ...OPTIONAL_CHANNELS].map(({ id }) => id))
  expect(known.size).toBe(CHANNELS.length + derived.length + OPTIONAL_CHANNELS.length)
  for (const { derived: from } of derived) {
    const { inputs, outputs } = registry.get(from!.node)!
    expect(Object.keys(outputs)).toContain(from!.port)
    for (const name of Object.keys(from!.takes ?? {})) expect(Object.keys(inputs)).toContain(name)
    const takes = Object.entries(inputs).filter(([, { whenUnconnected }]) => !isDefaultNode(whenUnconnected))
    for (const [name] of takes) expect([...known]).toContain(from!.takes?.[name] ?? name)
    for (const id of from!.bakes ?? []) expect(optionalChannel(id)?.onPart).toBeDefined()
  }
})
