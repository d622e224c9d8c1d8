import { createField } from '../../field/field'
import type { Field } from '../../field/field'
import type { ImagePyramid } from '../../field/pyramid'
import { makePyramid } from '../../field/pyramid'
import type { PartFacts } from '../../document/domain'
import { bakers } from '../../mesh/bakers/bakers.generated'
import { MESH_DATA_KINDS } from '../../graph/mesh-data-kinds'
import { GristError } from '../../errors'
import { DERIVED_CHANNELS } from '../../document/channels'
import { kindsRead } from '../../graph/kinds-read'
import { registry } from '../registry.generated'
import { documentOf, evaluateOutputs } from '../../testing/examples'
import { runNode } from '../../testing/run-node'

const N = 32
const part: PartFacts = {
  name: 'Cube',
  mesh: 'none',
  part: 0,
  uvSet: 0,
  metres: 2,
  box: { min: [0, 0, 0], max: [1, 1, 1] },
  modelBox: { min: [0, 0, 0], max: [1, 4, 1] },
  data: { 'material-id': 'ids' },
}
const each = (make: (x: number, y: number) => number): Float32Array =>
  Float32Array.from({ length: N * N }, (_, i) => make(((i % N) + 0.5) / N, (Math.floor(i / N) + 0.5) / N))
const field = (type: Field['type'], ...planes: Float32Array[]): Field => ({ ...createField(type, N, N), planes })
const grey = (make: (x: number, y: number) => number): Field => field('grey', each(make))
const zero = (): Float32Array => each(() => 0)
const ones = (): Float32Array => each(() => 1)
/** The front of a unit cube that fills the tile: x to the right, y up, at z = 1. */
const front = field(
  'colour',
  each((x) => x),
  each((_, y) => 1 - y),
  ones(),
)
const forward = field('normal', zero(), zero(), ones())
const values = (of: Field | undefined, plane = 0): number[] => [...of!.planes[plane]!]
const run = (type: string, inputs: Record<string, Field>, params: Record<string, unknown>, more = {}) =>
  runNode(type, inputs, params, { part, metres: [2, 2], ...more })

test('kinds of mesh data that nodes read are those that are baked, of the same types', () => {
  expect(Object.fromEntries(bakers.map(({ name, type }) => [name, type]))).toEqual(MESH_DATA_KINDS)
})

describe('axis gradient', () => {
  test('is exact on a unit cube: 0 at the foot, 1 at the top, the place itself between (definition)', () => {
    const made = values(run('axis-gradient', { position: front }, { floor: 0 }).gradient)
    const places = [...front.planes[1]!]
    expect(made.every((v, i) => Math.abs(v - places[i]!) < 1e-7)).toBe(true)
  })
  test('keeps to its floor, turns about, spans the model or metres', () => {
    const gradient = (params: Record<string, unknown>): number[] =>
      values(run('axis-gradient', { position: front }, params).gradient)
    expect(Math.min(...gradient({ floor: 0.2 }))).toBeCloseTo(0.2 + 0.8 * (0.5 / N), 6)
    const [up, down] = [gradient({ floor: 0 }), gradient({ floor: 0, invert: true })]
    up.forEach((v, i) => expect(v + down[i]!).toBeCloseTo(1, 6))
    expect(Math.max(...gradient({ floor: 0, range: 'model' }))).toBeLessThan(0.25)
    const metres = gradient({ floor: 0, range: 'metres', from: 0.25, to: 0.75 })
    expect(metres[0]).toBe(1)
    expect(metres.at(-1)).toBe(0)
    expect(metres[16 * N]).toBeCloseTo((front.planes[1]![16 * N]! - 0.25) * 2, 6)
  })
})

test('facing: the cosine of the angle between surface and direction (Lambert)', () => {
  const tilted = field(
    'normal',
    each(() => 0.6),
    zero(),
    each(() => 0.8),
  )
  expect(values(run('facing', { normal: tilted }, { height: 0, heading: 0 }).cosine)[0]).toBeCloseTo(0.8, 6)
  expect(values(run('facing', { normal: tilted }, { height: 0, heading: 0.25 }).cosine)[0]).toBeCloseTo(0.6, 6)
  expect(values(run('facing', { normal: tilted }, { height: 0.25 }).cosine)[0]).toBeCloseTo(0, 6)
})

describe('edge wear', () => {
  // Mean curvature of a right-angled edge down the middle of the tile: all of π/2, halved, within a texel.
  const edge = grey((x) => (Math.abs(x - 0.5) < 1 / N ? (Math.PI / 4 / 2) * (N / 2) : 0))
  test('reads 1 at the crest of a right angle, whatever the radius (by hand: see the node)', () => {
    for (const radius of [0.15, 0.25]) {
      const { convexity } = run('edge-wear', { curvature: edge }, { radius })
      expect(Math.max(...values(convexity))).toBeCloseTo(1, 1)
    }
  })
  test('what is flat or hollow is not worn; the rim lies around the worn edge and not on it', () => {
    const hollow = grey((x) => -(Math.abs(x - 0.5) < 1 / N ? 12 : 0))
    expect(Math.max(...values(run('edge-wear', { curvature: hollow }, { radius: 0.1, level: 0.1 }).edges))).toBe(0)
    const { edges, rim } = run('edge-wear', { curvature: edge }, { radius: 0.1, level: 0.3, softness: 0.1 })
    const [worn, around] = [values(edges), values(rim)]
    const middle = N / 2
    expect(worn[middle]).toBe(1)
    expect(around[middle]).toBe(0)
    expect(Math.max(...around)).toBeGreaterThan(0.9)
  })
})

test('crevices are dark, open places are not, and hollows inside hollows stand out', () => {
  const wide = grey((x, y) => {
    const away = Math.max(Math.abs(x - 0.5), Math.abs(y - 0.5))
    return away < 0.06 ? 0 : away < 0.35 ? 0.55 : 1
  })
  const { crevices, deep } = run('crevice', { occlusion: wide }, { distance: 0.2, level: 0.3, softness: 0.2 })
  const at = (of: Field | undefined, x: number, y: number): number =>
    values(of)[Math.floor(y * N) * N + Math.floor(x * N)]!
  expect(at(crevices, 0.05, 0.05)).toBe(0)
  expect(at(crevices, 0.5, 0.5)).toBe(1)
  expect(at(deep, 0.5, 0.5)).toBeGreaterThan(0.9)
  expect(at(deep, 0.3, 0.5)).toBe(0)
})

describe('leaks', () => {
  // A wall 1 m high under a ledge, runs baked to 1 m: 1 at the top, 0 at its foot.
  const wall = grey((_, y) => 1 - y)
  test('without variation end at their length, and begin at the ledge', () => {
    const { leaks } = run('leaks', { leaks: wall, position: front }, { length: 0.5, variation: 0, spread: 0 })
    const column = Array.from({ length: N }, (_, y) => values(leaks)[y * N + 5]!)
    expect(column[0]).toBeGreaterThan(0.95)
    column.forEach((v, y) => expect(v).toBeCloseTo(Math.max(0, 1 - (y + 0.5) / N / 0.5), 5))
  })
  test('vary from side to side and not downward: no streak begins again below its end', () => {
    const { leaks } = run('leaks', { leaks: wall, position: front }, { length: 1, variation: 0.9, scale: 0.1 })
    const lengths = Array.from({ length: N }, (_, x) => {
      const column = Array.from({ length: N }, (_, y) => values(leaks)[y * N + x]! > 0)
      const end = column.indexOf(false)
      expect(column.slice(end).some((wet) => end >= 0 && wet)).toBe(false)
      return end < 0 ? N : end
    })
    expect(new Set(lengths).size).toBeGreaterThan(5)
  })
})

test('a wear mask is mid-grey where nothing wears, lighter where worn, darker where dirty; rubbed places lose their dirt', () => {
  const wear = (edges: number, crevices: number, leaks: number): number =>
    values(
      run(
        'wear-mask',
        { edges: grey(() => edges), crevices: grey(() => crevices), leaks: grey(() => leaks) },
        { edges: 1, crevices: 1, leaks: 1 },
      ).wear,
    )[0]!
  expect(wear(0, 0, 0)).toBe(0.5)
  expect(wear(1, 0, 0)).toBe(1)
  expect(wear(0, 1, 0)).toBe(0)
  expect(wear(0, 0, 0.5)).toBe(0.25)
  expect(wear(1, 1, 1)).toBe(1)
})

test('an ID mask takes the nearest number and mixes none', () => {
  const ids: ImagePyramid = makePyramid(
    { width: 4, height: 1, channels: 1, values: Float32Array.of(1, 2, 3, 2), bits: 32, float: true },
    { image: 'ids', encoded: false, premultiplied: true },
  )
  const mask = (picked: number[], invert = false): number[] =>
    values(
      run('id-mask', {}, { ids: picked, invert }, { images: new Map([['ids|raw|premultiplied', ids]]) }).mask,
    ).slice(0, N)
  const quarter = (i: number): number => Math.floor((i / N) * 4)
  expect(mask([2])).toEqual(Array.from({ length: N }, (_, i) => Number(quarter(i) === 1 || quarter(i) === 3)))
  expect(mask([1, 3], true)).toEqual(mask([2]))
  expect(mask([])).toEqual(Array(N).fill(0))
})

describe('project', () => {
  const picture = grey((x) => x)
  test('planar lays the picture straight: closed form u = x / size + ½', () => {
    const { result } = run(
      'project',
      { source: picture, position: front, normal: forward },
      { way: 'planar', size: 2, x: 0, y: 0.5 },
    )
    values(result).forEach((v, i) => {
      const u = front.planes[0]![i]! / 2 + 0.5
      // Away from where the picture wraps.
      if (u > 0.55 && u < 0.95) expect(v).toBeCloseTo(u, 5)
    })
  })
  test('three-way on one face is planar, and weighs two sides evenly at 45 degrees (closed form)', () => {
    const of = (way: string, normal: Field): number[] =>
      values(run('project', { source: picture, position: front, normal }, { way, size: 2 }).result)
    const planar = of('planar', forward)
    expect(of('three-way', forward).every((v, i) => Math.abs(v - planar[i]!) < 1e-5)).toBe(true)
    const half = Math.SQRT1_2
    const slanted = field(
      'normal',
      each(() => half),
      zero(),
      each(() => half),
    )
    // From +X the picture runs along −z, which is 1 all over the front: u = −1/2 + ½ = 0.
    const both = of('three-way', slanted)
    const side = values(
      run(
        'project',
        { source: picture, position: front, normal: field('normal', ones(), zero(), zero()) },
        { way: 'three-way', size: 2 },
      ).result,
    )
    both.forEach((v, i) => expect(v).toBeCloseTo((side[i]! + planar[i]!) / 2, 4))
  })
  test('a decal lies once, within its depth, and on what is turned to it', () => {
    const decal = (params: Record<string, unknown>, normal = forward): number[] =>
      values(
        run(
          'project',
          { source: picture, position: front, normal },
          { way: 'planar', repeat: 'once', size: 0.5, x: 0.5, y: 0.5, z: 1, ...params },
        ).coverage,
      )
    const share = (mask: number[]): number => mask.reduce((sum, v) => sum + v, 0) / mask.length
    expect(share(decal({}))).toBeCloseTo(0.25, 2)
    expect(share(decal({ z: 2 }))).toBe(0)
    expect(share(decal({ z: 2, depth: 1.5 }))).toBeCloseTo(0.25, 2)
    expect(share(decal({}, field('normal', ones(), zero(), zero())))).toBe(0)
  })
})

test('solid noise and cells have the same value at the same place, wherever it lies in UV', () => {
  const mirrored = field(
    'colour',
    each((x) => 1 - x),
    front.planes[1]!,
    front.planes[2]!,
  )
  for (const [type, port] of [
    ['solid-noise', 'grey'],
    ['solid-cells', 'border'],
  ] as const) {
    const [a, b] = [front, mirrored].map((position) => values(run(type, { position }, { size: 0.21 })[port]))
    a!.forEach((v, i) => expect(b![Math.floor(i / N) * N + (N - 1 - (i % N))]).toBe(v))
    expect(new Set(a).size).toBeGreaterThan(100)
  }
})

test('an island’s length runs along its longer side, from its other end where that is asked', () => {
  const ids = {
    ...createField('id', N, N),
    ids: Uint32Array.from({ length: N * N }, (_, i) => (i % N < 8 ? 1 : i % N < 24 && i < N * 8 ? 2 : 0)),
  }
  const along = (params = {}): number[] => values(run('island', { ids }, params).along)
  const [from, turned] = [along(), along({ turnRoot: true })]
  expect(from[3]).toBeLessThan(0.05)
  expect(from[(N - 1) * N + 3]).toBeGreaterThan(0.95)
  expect(from[8]).toBeLessThan(0.05)
  expect(from[23]).toBeGreaterThan(0.95)
  expect(turned[3]).toBeCloseTo(1 - from[3]!, 6)
  expect(values(run('island', { ids }, {}).random)[N * N - 1]).toBe(0)
})

test('without a part, or without its data, a node says so and what lies below is shown', async () => {
  const parts = {
    domain: { kind: 'part' },
    nodes: { wear: { type: 'edge-wear' } },
    layers: [
      { kind: 'layer', id: 'base', name: 'Base', cells: { colour: { source: { value: '#808080' } } } },
      {
        kind: 'layer',
        id: 'worn',
        name: 'Worn',
        mask: [{ source: { node: 'wear.edges' } }],
        cells: { colour: { source: { value: '#ffffff' } } },
      },
    ],
  }
  const refused = async (domain: object): Promise<GristError> =>
    evaluateOutputs(documentOf({ ...parts, domain }), ['colour'], 16).then(
      () => Promise.reject(new Error('it was made')),
      (error: unknown) => error as GristError,
    )
  const none = await refused({ kind: 'part' })
  expect(none).toBeInstanceOf(GristError)
  expect([none.code, none.place.node]).toEqual(['mesh-data-missing', 'wear'])
  expect((await refused({ kind: 'part', on: { ...part, data: {} } })).message).toContain('No curvature has been baked')
})

test('what a material reads of its part: its own kinds, and those of inputs that nothing is connected to', () => {
  const of = (nodes: object): string[] => kindsRead(documentOf({ nodes }), registry)
  expect(of({ wear: { type: 'wear-mask' } })).toEqual(['occlusion', 'curvature', 'position', 'leaks'])
  expect(of({ flat: { type: 'noise' }, wear: { type: 'edge-wear', inputs: { curvature: 'flat.grey' } } })).toEqual([])
  expect(of({ pick: { type: 'id-mask', params: { kind: 'piece-id' } } })).toEqual(['piece-id'])
  expect(kindsRead(documentOf({}), registry, { under: true })).toEqual(['normal', 'occlusion'])
  const upward = { channels: { upward: { type: 'grey', backdrop: 0 } } }
  expect(kindsRead(documentOf(upward), registry, { under: true })).toEqual(['normal', 'object-normal', 'occlusion'])
  // What files are made of besides: a node over mesh data, and an optional channel that is taken of them.
  const delivery = (id: string) => [DERIVED_CHANNELS.find((one) => one.id === id)!]
  const made = (id: string, more = {}) => kindsRead(documentOf(more), registry, { delivery: delivery(id) })
  expect(made('object-normal')).toEqual(['tangent', 'bitangent', 'low-normal'])
  expect(made('diffuse-highlights')).toEqual(['object-normal'])
  expect(made('diffuse-highlights', upward)).toEqual(['object-normal'])
  expect(made('diffuse')).toEqual([])
})
