import { parseOutput } from '../document/address'
import type { GristError } from '../errors'
import type { Step } from '../graph/graph'
import { registry } from '../nodes/registry.generated'
import { documentOf, evaluateOutputs } from '../testing/examples'
import { expandDocument } from './expand'

const layer = (id: string, cells: Record<string, unknown>, more: Record<string, unknown> = {}) => ({
  kind: 'layer',
  id,
  name: id,
  cells,
  ...more,
})
const value = (v: number | string) => ({ source: { value: v } })

/** Values of outputs at one texel. */
async function values(parts: Record<string, unknown>, outputs: string[]): Promise<Record<string, number[]>> {
  const { fields } = await evaluateOutputs(documentOf(parts), outputs, 1)
  return Object.fromEntries([...fields].map(([name, field]) => [name, field.planes.map((plane) => plane[0]!)]))
}

/** The error that expanding gives, as code and message. */
function refusal(parts: Record<string, unknown>, outputs: string[]): { code: string; message: string } {
  try {
    expandDocument(documentOf(parts), registry, outputs.map(parseOutput))
  } catch (error) {
    return { code: (error as GristError).code, message: (error as Error).message }
  }
  throw new Error('nothing was refused')
}

describe('channels', () => {
  test('what lies below the lowest layer', async () => {
    const below = await values(
      { channels: { wear: { type: 'grey', backdrop: 0.25 }, dye: { type: 'colour', backdrop: '#ff0000' } } },
      ['colour', 'height', 'roughness', 'metallic', 'normal', 'occlusion', 'opacity', 'emission', 'wear', 'dye'],
    )
    expect(below.height).toEqual([0.5])
    expect(below.metallic).toEqual([0])
    expect(below.normal).toEqual([0, 0, 1])
    expect(below.occlusion).toEqual([1])
    expect(below.opacity).toEqual([1])
    expect(below.emission).toEqual([0, 0, 0])
    expect(below.wear).toEqual([0.25])
    expect(below.dye).toEqual([1, 0, 0])
    for (const v of below.colour!) expect(v).toBeCloseTo(0.21404114, 6) // linear of sRGB 0.5, IEC 61966-2-1
  })

  test('a colour blends as the eye sees it unless linear is asked for', async () => {
    const halfWhite = (encoding: string) => ({
      layers: [
        layer('a', { colour: value('#000000') }),
        layer('b', { colour: { ...value('#ffffff'), amount: 0.5, encoding } }),
      ],
    })
    expect((await values(halfWhite('srgb'), ['colour'])).colour![0]).toBeCloseTo(0.21404114, 6)
    expect((await values(halfWhite('linear'), ['colour'])).colour![0]).toBeCloseTo(0.5, 6)
  })

  test('a stack of encoded blends is decoded once', () => {
    const layers = ['a', 'b', 'c', 'd'].map((id) => layer(id, { colour: { ...value('#804020'), amount: 0.5 } }))
    const graph = expandDocument(documentOf({ layers }), registry, [parseOutput('colour')])
    const used = new Set<Step>()
    const walk = (step: Step): void => {
      used.add(step)
      for (const ref of Object.values(step.inputs)) if (ref) walk(ref.step)
    }
    walk(graph.outputs.get('colour')!.step)
    const count = (type: string) => [...used].filter((step) => step.node.type === type).length
    expect([count('blend'), count('decode-srgb')]).toEqual([4, 1])
  })
})

describe('composed normal and occlusion', () => {
  const bumps = {
    nodes: { n: { type: 'noise', params: { cells: [3, 3] } } },
    layers: [layer('a', { height: { source: { node: 'n.grey' } } })],
  }
  test('the normal comes from the composed height at its true scale', async () => {
    const tall = await evaluateOutputs(documentOf({ ...bumps, heightMetres: 0.2 }), ['normal'], 32)
    const flat = await evaluateOutputs(documentOf({ ...bumps, heightMetres: 0.02 }), ['normal'], 32)
    const slope = (fields: typeof tall) => {
      const [x, , z] = fields.fields.get('normal')!.planes
      return x![100]! / z![100]!
    }
    expect(slope(tall) / slope(flat)).toBeCloseTo(10, 3)
  })
  test('where normals hold the height already nothing is added to them, while occlusion still comes of it', async () => {
    const own = documentOf({ ...bumps, normalsHoldHeight: true })
    const { fields } = await evaluateOutputs(own, ['normal', 'occlusion'], 16)
    expect(Math.min(...fields.get('normal')!.planes[2]!)).toBe(1)
    expect(Math.min(...fields.get('occlusion')!.planes[0]!)).toBeLessThan(1)
  })
  test('a layer\u2019s own normal is laid onto it; a flat one changes nothing', async () => {
    const plain = await evaluateOutputs(documentOf(bumps), ['normal'], 16)
    const flat = {
      nodes: { ...bumps.nodes, c: { type: 'constant' }, h: { type: 'height-to-normal', inputs: { height: 'c.grey' } } },
      layers: [
        layer('a', {
          height: { source: { node: 'n.grey' } },
          normal: { source: { node: 'h.normal' }, blend: 'combine' },
        }),
      ],
    }
    const both = await evaluateOutputs(documentOf(flat), ['normal'], 16)
    plain.fields
      .get('normal')!
      .planes.forEach((plane, p) =>
        plane.forEach((v, i) => expect(both.fields.get('normal')!.planes[p]![i]).toBeCloseTo(v, 5)),
      )
  })
  test('occlusion darkens hollows and multiplies what layers say', async () => {
    const open = await evaluateOutputs(documentOf({ ...bumps, heightMetres: 0.5 }), ['occlusion'], 32)
    const min = Math.min(...open.fields.get('occlusion')!.planes[0]!)
    expect(min).toBeLessThan(0.9)
    const halved = await evaluateOutputs(
      documentOf({ ...bumps, heightMetres: 0.5, layers: [...bumps.layers, layer('b', { occlusion: value(0.5) })] }),
      ['occlusion'],
      32,
    )
    expect(Math.min(...halved.fields.get('occlusion')!.planes[0]!)).toBeCloseTo(min / 2, 5)
  })
})

describe('taps, corrections, nodes that are off', () => {
  test('a tap of a layer carries the channel at that height; of a mask, the mask; of a node, its port', async () => {
    const parts = {
      nodes: { c: { type: 'constant', params: { value: 0.125 } } },
      layers: [
        layer('a', { roughness: value(0.2) }, { mask: [{ source: { value: 0.5 } }] }),
        layer('b', { roughness: value(0.9), height: { source: { tap: 'low' } } }),
      ],
      taps: { low: { layer: 'a', channel: 'roughness' }, where: { layer: 'a', mask: true }, c: { node: 'c.grey' } },
    }
    expect(
      await values(parts, [
        'roughness',
        'height',
        'tap:low',
        'tap:where',
        'tap:c',
        'layer:a:roughness',
        'layer:a:mask',
      ]),
    ).toEqual({
      roughness: [Math.fround(0.9)],
      height: [Math.fround(0.35)],
      'tap:low': [Math.fround(0.35)],
      'tap:where': [0.5],
      'tap:c': [0.125],
      'layer:a:roughness': [Math.fround(0.35)],
      'layer:a:mask': [0.5],
    })
  })

  test('one node read by two corrections answers for each with what lies below it', async () => {
    const parts = {
      nodes: { half: { type: 'levels', params: { outHigh: 0.5 }, inputs: { source: { backdrop: 'roughness' } } } },
      layers: [
        layer('a', { roughness: value(0.8) }),
        { kind: 'correction', id: 'one', name: '', cells: { roughness: { source: { node: 'half.result' } } } },
        { kind: 'correction', id: 'two', name: '', cells: { roughness: { source: { node: 'half.result' } } } },
      ],
    }
    const got = await values(parts, ['layer:one:roughness', 'roughness'])
    expect(got['layer:one:roughness']![0]).toBeCloseTo(0.4, 6)
    expect(got.roughness![0]).toBeCloseTo(0.2, 6)
  })

  test('a mask of any layer may read what lies below it', async () => {
    const parts = {
      nodes: {
        high: { type: 'threshold', params: { level: 0.5, softness: 0 }, inputs: { source: { backdrop: 'height' } } },
      },
      layers: [
        layer('a', { height: value(0.8), roughness: value(0.1) }),
        layer('b', { roughness: value(0.9), height: value(0) }, { mask: [{ source: { node: 'high.result' } }] }),
        layer('c', { roughness: value(0.4) }, { mask: [{ source: { node: 'high.result' } }] }),
      ],
    }
    const got = await values(parts, ['layer:b:roughness', 'roughness', 'layer:b:mask', 'layer:c:mask'])
    expect(got['layer:b:mask']).toEqual([1])
    expect(got['layer:b:roughness']![0]).toBeCloseTo(0.9, 6)
    // What lies below c is as low as b made it.
    expect(got['layer:c:mask']).toEqual([0])
    expect(got.roughness![0]).toBeCloseTo(0.9, 6)
  })

  test('a node that is off lets its first input through', async () => {
    const parts = {
      nodes: {
        c: { type: 'constant', params: { value: 0.3 } },
        i: { type: 'invert', inputs: { source: 'c.grey' }, off: true },
      },
    }
    expect((await values(parts, ['i.result']))['i.result']![0]).toBeCloseTo(0.3, 6)
  })

  test('names are free: renaming nodes changes no bit', async () => {
    const graph = (id: string) => ({
      nodes: { [id]: { type: 'noise', params: { seed: 4 } } },
      layers: [layer('a', { height: { source: { node: `${id}.grey` } } })],
    })
    const [a, b] = [
      await evaluateOutputs(documentOf(graph('x')), ['height'], 16),
      await evaluateOutputs(documentOf(graph('another')), ['height'], 16),
    ]
    expect(a.fields.get('height')!.planes[0]).toEqual(b.fields.get('height')!.planes[0])
  })
})

describe('dials', () => {
  const dial = (more: Record<string, unknown>) => ({ id: 'd', label: 'D', default: 0, value: 0.5, drives: [], ...more })
  test('set parameters, amounts, values, masks: value · scale + offset', async () => {
    const parts = {
      nodes: {
        c: { type: 'constant', params: { value: 0 } },
        g: {
          type: 'gradient-remap',
          params: {
            stops: [
              { at: 0, colour: '#000000' },
              { at: 1, colour: '#000000' },
            ],
          },
          inputs: { source: 'c.grey' },
        },
      },
      layers: [
        layer(
          'a',
          {
            roughness: value(0),
            metallic: { ...value(1), amount: 0 },
            height: { source: { node: 'c.grey' } },
            colour: { source: { node: 'g.result' } },
          },
          { mask: [{ source: { value: 1 } }] },
        ),
        layer('b', { opacity: value(0) }, { amount: 0 }),
      ],
      dials: [
        dial({
          drives: [
            { node: 'c', field: 'value', scale: 2, offset: -0.25 },
            { layer: 'a', channel: 'roughness', field: 'value' },
            { layer: 'a', channel: 'metallic', field: 'amount' },
            { layer: 'b', field: 'amount', scale: 0.5 },
          ],
        }),
        dial({ id: 'ink', kind: 'colour', value: '#ff0000', drives: [{ node: 'g', field: 'stops.1.colour' }] }),
        dial({ id: 'm', value: 0.25, drives: [{ layer: 'a', entry: 0, field: 'value' }] }),
      ],
    }
    const got = await values(parts, ['layer:a:mask', 'c.grey', 'metallic', 'opacity', 'g.result'])
    expect(got['layer:a:mask']).toEqual([0.25])
    expect(got['c.grey']![0]).toBeCloseTo(0.75, 6)
    expect(got.metallic![0]).toBeCloseTo(0.125, 6) // amount ½ under a mask of ¼
    expect(got.opacity![0]).toBeCloseTo(0.75, 6)
    expect(got['g.result']![0]).toBeGreaterThan(0.3)
    expect(got['g.result']![1]).toBeLessThan(0.01)
  })

  test.each([
    [{ value: 'red' }, 'Expected a number'],
    [{ value: 3, max: 1 }, 'but received 3'],
    [{ kind: 'choice', value: 'x', options: ['a', 'b'] }, 'Expected one of a, b'],
    [{ drives: [{ node: 'nobody', field: 'value' }] }, 'There is no node "nobody" to drive'],
    [{ drives: [{ layer: 'nobody', field: 'amount' }] }, 'There is no layer "nobody" to drive'],
    [{ drives: [{ layer: 'a', field: 'amount', offset: 3 }] }, 'Expected an amount from 0 to 1'],
    [{ drives: [{ layer: 'a', entry: 4, field: 'amount' }] }, 'has no mask entry 4'],
    [{ drives: [{ layer: 'a', channel: 'height', field: 'amount' }] }, 'has no cell "height"'],
  ])('%j is refused with the dial named', (more, words) => {
    const { message } = refusal({ layers: [layer('a', { roughness: value(0) })], dials: [dial(more)] }, ['roughness'])
    expect(message).toContain(words)
    expect(message).toContain('dial "d"')
  })
})

describe('refusals name the place and the way out', () => {
  const two = (a: unknown, b: unknown) => ({ nodes: { a, b } })
  test('a circle is told with its whole path', () => {
    const { code, message } = refusal(
      two({ type: 'invert', inputs: { source: 'b.result' } }, { type: 'invert', inputs: { source: 'a.result' } }),
      ['a.result'],
    )
    expect(code).toBe('cycle')
    expect(message).toContain('node a → node b → node a')
  })
  test('a circle through a tap and a layer', () => {
    const { code, message } = refusal(
      {
        nodes: { a: { type: 'invert', inputs: { source: { tap: 't' } } } },
        taps: { t: { layer: 'top', channel: 'height' } },
        layers: [layer('top', { height: { source: { node: 'a.result' } } })],
      },
      ['height'],
    )
    expect(code).toBe('cycle')
    expect(message).toMatch(/layer top, height → node a → .*tap t/)
  })
  test.each([
    [{}, 'colours', 'reference-unknown', 'There is no channel "colours"'],
    [{}, 'x.y', 'reference-unknown', 'There is no node "x"'],
    [{}, 'tap:x', 'reference-unknown', 'There is no tap "x"'],
    [{}, 'layer:x:height', 'reference-unknown', 'There is no layer "x"'],
    [{ nodes: { a: { type: 'nothing' } } }, 'a.grey', 'node-unknown', 'There is no node type "nothing"'],
    [{ nodes: { a: { type: 'constant' } } }, 'a.red', 'reference-unknown', 'has no output "red"'],
    [{ nodes: { a: { type: 'invert' } } }, 'a.result', 'input-missing', 'must be connected'],
    [
      { nodes: { a: { type: 'noise', params: { octaves: 99 } } } },
      'a.grey',
      'parameter-invalid',
      'parameter "octaves"',
    ],
    [{ nodes: { a: { type: 'noise', params: { colour: 1 } } } }, 'a.grey', 'parameter-invalid', 'colour'],
    [{ nodes: { a: { type: 'noise', version: 9 } } }, 'a.grey', 'document-too-new', 'is of version 9'],
    [
      { nodes: { a: { type: 'cells' }, b: { type: 'invert', inputs: { source: 'a.id' } } } },
      'b.result',
      'type-mismatch',
      'id',
    ],
    [
      { nodes: { a: { type: 'noise' }, b: { type: 'invert', inputs: { sauce: 'a.grey' } } } },
      'b.result',
      'reference-unknown',
      'has no input "sauce"',
    ],
    [
      { layers: [layer('a', { normal: { source: { value: 1 } } })] },
      'normal',
      'type-mismatch',
      'Use height-to-normal first',
    ],
    [
      { layers: [layer('a', { height: { ...value(1), blend: 'combine' } })] },
      'height',
      'parameter-invalid',
      'for the normal channel only',
    ],
    [
      { nodes: { a: { type: 'invert', inputs: { source: { backdrop: 'height' } } } } },
      'a.result',
      'reference-unknown',
      'What lies below is that of a layer',
    ],
  ] as [Record<string, unknown>, string, string, string][])('%j asked for %s', (parts, output, code, words) => {
    const got = refusal(parts, [output])
    expect(got.code).toBe(code)
    expect(got.message).toContain(words)
    expect(got.message).toContain('document "test"')
  })
})
