import { channelsOf, deliverableChannels } from '../document/channels'
import { documentOf, evaluateOutputs } from '../testing/examples'
import { fieldOf } from '../testing/fields'
import { runChecks } from './check'
import { checks } from './rules/rules.generated'

const N = 16
const channels = new Map(deliverableChannels(documentOf({})).map((channel) => [channel.id, channel]))
type Texel = readonly [number, number, number]

/** Rules that a set of diffuse and specular colours breaks: on its left half, and on its right. */
function broken(left: { diffuse: Texel; specular: Texel }, right = left): string[] {
  const of = (name: 'diffuse' | 'specular') => ({
    channel: channels.get(name)!,
    // A little uneven, as nothing is found constant then; it repeats.
    field: fieldOf('colour', N, N, (x, y, p) => (x < N / 2 ? left : right)[name][p]! * (1 - 0.01 * ((x + y) % 2))),
    steps: 0,
  })
  const subject = { width: N, height: N, channels: [of('diffuse'), of('specular')], files: [], over: 'part' as const }
  return runChecks(checks, subject).map(({ rule }) => rule)
}

// KHR_materials_pbrSpecularGlossiness: 0.04 is a plain surface (sRGB 56); metals have no diffuse colour.
const plain = { diffuse: [0.4, 0.3, 0.2], specular: [0.04, 0.04, 0.04] } as const
const metal = { diffuse: [0, 0, 0], specular: [0.9, 0.7, 0.4] } as const

test('plain surfaces and metals break no rule of specular colours', () => {
  for (const one of [broken(plain), broken(metal), broken(plain, metal)])
    expect(one.filter((rule) => rule.startsWith('specular'))).toEqual([])
})

test('more light than meets a surface, and a specular colour that is neither of metal nor not', () => {
  expect(broken({ ...metal, diffuse: [0.4, 0.3, 0.2] })).toContain('specular-energy')
  expect(broken(plain, { ...metal, diffuse: [0.4, 0.3, 0.2] })).toContain('specular-energy')
  // 0.2 in linear light is sRGB 124.
  expect(broken({ diffuse: [0.3, 0.3, 0.3], specular: [0.2, 0.2, 0.2] })).toContain('specular-level')
})

test('what is made of base colour and metallic keeps to both, at every metallic', async () => {
  const cells = { colour: { source: { value: '#d8b080' } }, metallic: { source: { node: 'steps.result' } } }
  const nodes = {
    run: { type: 'ramp' },
    steps: { type: 'threshold', inputs: { source: 'run.grey' } },
  }
  const document = documentOf({ nodes, layers: [{ kind: 'layer', id: 'a', name: 'A', cells }] })
  expect(channelsOf(document).some(({ id }) => id === 'diffuse')).toBe(false)
  const names = ['diffuse', 'specular']
  const { fields } = await evaluateOutputs(document, names, 64)
  const subject = {
    ...{ width: 64, height: 64, files: [] },
    channels: names.map((name) => ({ channel: channels.get(name)!, field: fields.get(name)!, steps: 0 })),
  }
  const found = runChecks(checks, subject).filter(({ rule }) => rule.startsWith('specular'))
  expect(found).toEqual([])
})
