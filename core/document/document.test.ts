import fc from 'fast-check'
import { readFileSync } from 'node:fs'
import { GristError } from '../errors'
import { LIMITS } from '../limits'
import { parseDocument } from './document'
import { upgradeDocument } from './upgrade'

const base = { format: 'amber-grist/material', version: 2, name: 'test', domain: { kind: 'tile', metres: [1, 1] } }
const refused = (json: unknown): GristError => {
  try {
    parseDocument(json)
  } catch (error) {
    if (error instanceof GristError) return error
    throw error
  }
  throw new Error('nothing was refused')
}

/** A document of version 1 as it was first written down; every later version must read it. */
const SAMPLE_1 = {
  ...base,
  seed: 9,
  heightMetres: 0.03,
  occlusion: { radiusMetres: 0.1, strength: 1 },
  emissionStrength: 2,
  channels: { wear: { title: 'Wear', type: 'grey', backdrop: 0 } },
  nodes: { n: { type: 'noise', version: 1, name: 'Noise', params: { seed: 2 }, inputs: {}, at: [10, 20] } },
  layers: [
    {
      kind: 'layer',
      id: 'a',
      name: 'A',
      mask: [{ source: { node: 'n.grey' }, mode: 'multiply', amount: 1, invert: true }],
      cells: { height: { source: { value: 0.3 }, blend: 'normal', amount: 1, encoding: 'srgb' } },
    },
    {
      kind: 'group',
      id: 'g',
      name: 'G',
      closed: true,
      layers: [{ kind: 'correction', id: 'c', name: 'C', cells: { height: { source: { backdrop: 'height' } } } }],
    },
  ],
  taps: { t: { layer: 'a', mask: true } },
  dials: [
    {
      id: 'd',
      label: 'D',
      section: 'S',
      kind: 'number',
      unit: 'm',
      min: 0,
      max: 1,
      default: 0,
      value: 0.5,
      drives: [{ node: 'n', field: 'gain' }],
    },
  ],
}

describe('reading documents', () => {
  test('fills defaults in, and reading what was read changes nothing', () => {
    const once = parseDocument({ ...base, layers: [{ kind: 'layer', id: 'a', name: 'A' }] })
    expect(once).toMatchObject({
      seed: 0,
      heightMetres: 0.02,
      occlusion: { radiusMetres: 0.05, strength: 1 },
      nodes: {},
      dials: [],
      layers: [{ amount: 1, mask: [], cells: {} }],
    })
    expect(parseDocument(JSON.parse(JSON.stringify(once)))).toEqual(once)
  })

  test('version 1 as first written down is read whole', () => {
    const read = parseDocument(SAMPLE_1)
    expect(read).toMatchObject(SAMPLE_1)
    for (const name of ['quay-setts', 'towpath-shell-grit', 'depth-board-enamel', 'limewash'])
      parseDocument(JSON.parse(readFileSync(`demo/${name}.json`, 'utf8')))
  })

  test('the example of docs/FORMAT.md is a document', () => {
    const [, json] = /```json\n(\{\n {2}"format"[\s\S]*?)```/.exec(readFileSync('docs/FORMAT.md', 'utf8'))!
    expect(parseDocument(JSON.parse(json!)).dials).toHaveLength(1)
  })

  test.each([
    [null, 'document-invalid', 'Expected a material document'],
    [[], 'document-invalid', 'Expected a material document'],
    ['text', 'document-invalid', 'Expected a material document'],
    [{}, 'document-invalid', 'Expected format'],
    [{ ...base, version: 0 }, 'document-invalid', 'whole version number'],
    [{ ...base, version: 99 }, 'document-too-new', 'Update it'],
    [{ ...base, colour: 1 }, 'document-invalid', 'colour'],
    [{ ...base, seed: -1 }, 'document-invalid', 'seed: '],
    [{ ...base, domain: { kind: 'tile', metres: [0, 1] } }, 'document-invalid', 'domain.metres[0]: '],
    [{ ...base, layers: [{ kind: 'layer', id: 'a', name: 'A', amount: 2 }] }, 'document-invalid', 'layers[0].amount: '],
    [{ ...base, layers: [{ kind: 'layer', id: 'a b', name: 'A' }] }, 'document-invalid', 'layers[0].id: '],
    [
      { ...base, layers: [{ kind: 'layer', id: 'a', name: 'A', cells: { height: { source: { value: NaN } } } }] },
      'document-invalid',
      'layers[0].cells.height.source',
    ],
    [
      { ...base, layers: ['a', 'a'].map((id) => ({ kind: 'layer', id, name: id })) },
      'document-invalid',
      'Two layers have this id',
    ],
    [{ ...base, nodes: { a: { type: 'noise', inputs: { x: 'no address' } } } }, 'document-invalid', 'nodes.a.inputs.x'],
    [
      {
        ...base,
        nodes: Object.fromEntries(
          Array.from({ length: LIMITS.document.nodes + 1 }, (_, i) => [`n${i}`, { type: 'noise' }]),
        ),
      },
      'document-invalid',
      'at most 1000 nodes',
    ],
    [
      { ...base, layers: Array.from({ length: 257 }, (_, i) => ({ kind: 'layer', id: `l${i}`, name: '' })) },
      'document-invalid',
      'layers',
    ],
    [
      { ...base, layers: [{ kind: 'group', id: 'a', name: '' }] },
      'document-invalid',
      'layers[0].layers: Invalid input: expected array, received undefined.',
    ],
    [{ ...base, layers: [{ kind: 'folder', id: 'a', name: '' }] }, 'document-invalid', `layers[0].kind: `],
    [{ ...base, layers: deep(40) }, 'document-invalid', 'at most 16 deep'],
  ])('%# is refused, naming the member', (json, code, words) => {
    const error = refused(json)
    expect(error.code).toBe(code)
    expect(error.message).toContain(words)
    expect(error.message.length).toBeLessThan(400)
  })

  test('a hundred thousand nested groups are refused, not a crash', () => {
    expect(refused({ ...base, layers: deep(100000) }).code).toBe('document-invalid')
  })
})

function deep(levels: number): unknown[] {
  let layers: unknown[] = []
  for (let i = 0; i < levels; i++) layers = [{ kind: 'group', id: `g${i}`, name: '', layers }]
  return layers
}

test('upgrades run step by step; a missing step is told', () => {
  const upgrades = {
    1: (d: Record<string, unknown>) => ({ ...d, heightMetres: 0.1 }),
    2: (d: Record<string, unknown>) => ({ ...d, seed: (d.seed as number) + 1 }),
  }
  expect(upgradeDocument({ ...base, version: 1, seed: 4 }, {}, upgrades, 3)).toEqual({
    ...base,
    version: 3,
    heightMetres: 0.1,
    seed: 5,
  })
  expect(() => upgradeDocument({ ...base, version: 1 }, {}, {}, 2)).toThrow('no way up from version 1')
})

test('5000 damaged documents: typed errors only', () => {
  // A whole document with members replaced, removed or added anywhere.
  const junk = fc.oneof(
    fc.constant(null),
    fc.double(),
    fc.integer(),
    fc.string(),
    fc.boolean(),
    fc.constant([]),
    fc.constant({}),
    fc.constantFrom('#ffffff', 'n.grey', '__proto__', 'constructor', 1e300, -0),
    fc.array(fc.anything(), { maxLength: 3 }),
    fc.dictionary(fc.string(), fc.anything(), { maxKeys: 3 }),
  )
  let accepted = 0
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(), fc.constantFrom('replace', 'remove', 'add'), fc.string(), junk), {
        minLength: 1,
        maxLength: 4,
      }),
      (changes) => {
        const json = structuredClone(SAMPLE_1) as unknown
        for (const [place, how, name, put] of changes) {
          const places: [Record<string, unknown>, string][] = []
          const walk = (at: unknown): void => {
            if (at === null || typeof at !== 'object') return
            for (const key of Object.keys(at)) {
              places.push([at as Record<string, unknown>, key])
              walk((at as Record<string, unknown>)[key])
            }
          }
          walk(json)
          if (places.length === 0) break
          const [holder, key] = places[place % places.length]!
          if (how === 'replace') holder[key] = put
          else if (how === 'remove') delete holder[key]
          else if (!Array.isArray(holder) && name !== '__proto__') holder[name] = put
        }
        try {
          parseDocument(json)
          accepted++
        } catch (error) {
          if (!(error instanceof GristError)) throw error
        }
      },
    ),
    { seed: 20, numRuns: 5000 },
  )
  expect(accepted).toBeGreaterThan(100)
  expect(accepted).toBeLessThan(4000)
})
