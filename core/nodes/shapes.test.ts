import type { Field } from '../field/field'
import type { RasterImage } from '../field/pyramid'
import { makePyramid } from '../field/pyramid'
import { checkParameters } from '../graph/graph'
import { documentOf, evaluateOutputs } from '../testing/examples'
import { fieldOf } from '../testing/fields'
import { registry } from './registry.generated'
import { runNode, values } from '../testing/run-node'

describe('stencil', () => {
  /** A white disc on transparent black. */
  const picture = (): RasterImage => {
    const n = 64
    const all = new Float32Array(n * n * 4)
    for (let y = 0; y < n; y++)
      for (let x = 0; x < n; x++) {
        const alpha = Math.min(1, Math.max(0, 20.5 - Math.hypot(x - 31.5, y - 31.5)))
        all.set(alpha > 0 ? [1, 1, 1, alpha] : [0, 0, 0, 0], (y * n + x) * 4)
      }
    return { width: n, height: n, channels: 4, values: all, bits: 8, float: false }
  }
  const images = new Map([
    ['disc|srgb|straight', makePyramid(picture(), { image: 'disc', encoded: true, premultiplied: false })],
  ])

  test.each([0.05, 0.31, 0.9])('at size %s no fringe shows: every texel lies between the ground and white', (size) => {
    const ground = [0.8, 0.1, 0.02]
    const under = fieldOf('colour', 96, 96, (_, __, p) => ground[p]!)
    const { result, alpha, colour } = runNode(
      'stencil',
      { under },
      { image: 'disc', size, angle: 0.07, centre: [0.98, 0.4] },
      { images },
    )
    let between = 0
    for (let i = 0; i < 96 * 96; i++) {
      const a = values(alpha)[i]!
      if (a > 0.02 && a < 0.98) between++
      for (let p = 0; p < 3; p++) {
        expect(Math.abs(values(result, p)[i]! - (ground[p]! + (1 - ground[p]!) * a))).toBeLessThan(1e-5)
        if (a > 0) expect(values(colour, p)[i]).toBeGreaterThan(0.999)
      }
    }
    expect(between).toBeGreaterThan(8)
    // The covered share is that of the disc: π · 20² of 64².
    const mean = values(alpha).reduce((sum, a) => sum + a, 0) / 96 ** 2
    expect(Math.abs(mean / (size * size * ((Math.PI * 400) / 4096)) - 1)).toBeLessThan(0.04)
  })

  test('over one value everywhere it still shows in its place only', async () => {
    const node = registry.get('stencil')!
    const document = documentOf({ nodes: { sign: { type: 'stencil', params: node.example.params } } })
    const { fields } = await evaluateOutputs(document, ['sign.alpha'], 64, { node })
    expect(new Set(values(fields.get('sign.alpha'))).size).toBeGreaterThan(10)
  })

  test('without an image what lies under it stays', () => {
    const under = fieldOf('colour', 8, 8, (x, y, p) => (x + y + p) / 20)
    expect(runNode('stencil', { under }).result!.planes).toEqual(under.planes)
  })
})

describe('shapes and patterns', () => {
  /** Share of the tile that is covered. */
  const mean = (field: Field | undefined): number => values(field).reduce((sum, v) => sum + v, 0) / values(field).length

  test.each([
    ['disc', { size: [0.8, 0.8] }, Math.PI * 0.16],
    ['disc', { size: [0.8, 0.3] }, Math.PI * 0.4 * 0.15],
    ['disc', { size: [0.1, 0.9], angle: 0.1 }, Math.PI * 0.05 * 0.45],
    ['box', { size: [0.6, 0.3] }, 0.18],
    ['box', { size: [0.6, 0.6], rounding: 0.1 }, 0.36 - (4 - Math.PI) * 0.01],
    ['polygon', { size: [0.8, 0.8], sides: 6 }, ((3 * Math.sqrt(3)) / 2) * 0.16],
    ['polygon', { size: [0.8, 0.8], sides: 3, angle: 0.2 }, ((3 * Math.sqrt(3)) / 4) * 0.16],
    ['star', { size: [0.8, 0.8], sides: 5, inner: 0.5 }, 5 * 0.4 * 0.2 * Math.sin(Math.PI / 5)],
    ['ring', { size: [0.8, 0.8], inner: 0.25 }, Math.PI * (0.16 - 0.09)],
    ['capsule', { size: [0.8, 0.2] }, 0.6 * 0.2 + Math.PI * 0.01],
    ['cross', { size: [0.8, 0.8], inner: 0.25 }, 0.8 * 0.2 * 2 - 0.04],
    ['disc', { size: [0.5, 0.5], repeat: [3, 2] }, Math.PI * (0.25 / 3) ** 2 * 6],
  ])('%s %j covers what geometry says', (shape, params, expected) => {
    expect(Math.abs(mean(runNode('shape', {}, { shape, ...params }, { width: 256 }).grey) - expected)).toBeLessThan(
      0.001,
    )
  })

  test('an uneven disc is an ellipse, its distance that to the nearest of 4000 points of it', () => {
    const n = 48
    const { distance } = runNode('shape', {}, { shape: 'disc', size: [0.8, 0.25] }, { width: n })
    const points = Array.from({ length: 4000 }, (_, i) => {
      const angle = (2 * Math.PI * i) / 4000
      return [0.5 + 0.4 * Math.cos(angle), 0.5 + 0.125 * Math.sin(angle)] as const
    })
    for (let i = 0; i < n * n; i += 23) {
      const [u, v] = [((i % n) + 0.5) / n, (Math.floor(i / n) + 0.5) / n]
      const min = Math.min(...points.map(([x, y]) => Math.hypot(x - u, y - v)))
      expect(Math.abs(Math.abs(values(distance)[i]!) - min)).toBeLessThan(5e-4)
    }
    // Documents of version 1 keep their round discs.
    const node = registry.get('shape')!
    expect(node.upgrade![1]!({ size: [0.8, 0.25] })).toEqual({ size: [0.25, 0.25] })
    expect(node.upgrade![1]!({ shape: 'box', size: [0.8, 0.25] })).toEqual({ shape: 'box', size: [0.8, 0.25] })
  })

  test('slope of a colour is told, of a normal it is not', () => {
    const node = registry.get('to-grey')!
    const told = (type: 'colour' | 'normal') =>
      node.notes!(checkParameters(node, { method: 'slope' }) as never, { metres: [1, 1], types: { source: type } })
    expect([told('colour').length, told('normal').length]).toEqual([1, 0])
    expect(told('colour')[0]).toContain('slope is of normals')
  })

  test('stripes cover their share at any slant, and say their pitch', () => {
    for (const counts of [
      [5, 0],
      [0, 7],
      [3, -4],
      [-6, 2],
    ])
      expect(
        Math.abs(mean(runNode('stripes', {}, { frequency: counts, coverage: 0.3 }, { width: 128 }).grey) - 0.3),
      ).toBeLessThan(0.01)
    const node = registry.get('stripes')!
    expect(node.notes!(checkParameters(node, { frequency: [3, 4] }) as never, { metres: [2, 2] })).toEqual([
      'One every 400.0 mm.',
    ])
  })

  test('weaves show as much warp as their trade definition: half, half, four fifths', () => {
    for (const [weave, expected] of [
      ['plain', 1 / 2],
      ['twill', 1 / 2],
      ['satin', 4 / 5],
    ] as const)
      expect(
        Math.abs(mean(runNode('weave', {}, { weave, threads: [10, 10], gap: 0 }, { width: 240 }).warp) - expected),
      ).toBeLessThan(0.08)
    const node = registry.get('weave')!
    expect(
      node.notes!(checkParameters(node, { weave: 'satin', threads: [11, 18] }) as never, { metres: [1, 1] }),
    ).toEqual(['Woven of 10 warp and 20 weft threads.'])
  })

  test('spots: as many as the density says, of the sizes asked for', () => {
    const { id, grey } = runNode(
      'spots',
      {},
      { cells: [16, 16], density: 0.5, size: [0.4, 0.4], softness: 0 },
      { width: 512 },
    )
    const count = new Set(id!.ids!).size - 1
    // 256 places at ½: a standard deviation is 8.
    expect(Math.abs(count - 128)).toBeLessThan(32)
    expect(Math.abs(mean(grey) / ((count * Math.PI * 0.04) / 256) - 1)).toBeLessThan(0.1)
  })

  test('fibres: the directions lie within the spread, and thinner than a texel covers as much less', () => {
    const { direction, grey } = runNode('fibres', {}, { count: 80, angle: 0.125, spread: 0.1, bend: 0 }, { width: 128 })
    const [u, v] = [values(direction), values(direction, 1)]
    values(grey).forEach((level, i) => {
      if (level === 0) return
      const turns = Math.atan2(-v[i]!, u[i]!) / (2 * Math.PI)
      expect(Math.abs(turns - 0.125)).toBeLessThan(0.0501)
    })
    const amount = (width: number, at: number) =>
      mean(
        runNode(
          'fibres',
          {},
          { count: 3, width: [width, width], taper: 0, softness: 0, bend: 0, vary: 0 },
          { width: at },
        ).grey,
      )
    expect(Math.abs(amount(0.002, 64) / amount(0.002, 1024) - 1)).toBeLessThan(0.1)
  })
})
