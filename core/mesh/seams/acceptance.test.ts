import type { PartFacts } from '../../document/domain'
import { parseOutput } from '../../document/address'
import { documentOf } from '../../testing/examples'
import { materialHere } from '../../testing/material-here'
import type { Mesh } from '../mesh'
import { boxOf, finishMesh } from '../mesh'
import { bake } from '../testing/bake-here'
import { unwrappedHead } from '../testing/head'
import { percentile, seamSteps } from '../testing/seam-steps'
import { KeptPatches, patchArrays } from './island-patches'
import { patchCount } from '../../field/patches'
import { coverOf } from './cover'
import { patchesOf } from './patches'
import { topologyOf } from './topology'
import { unfold } from './unfolding'

/*
 * Filters cross seams as if they were not there: on a cube, whose unfolding is known, and on a head of another's making, the one that
 * the prototype was measured with. What is filtered is a pattern in space, read at positions that were baked.
 */

const facts = (metres: number): PartFacts => ({
  name: 'Solid',
  mesh: 'solid',
  part: 0,
  uvSet: 0,
  metres,
  box: { min: [-1, -1, -1], max: [1, 1, 1] },
  modelBox: { min: [-1, -1, -1], max: [1, 1, 1] },
  data: { occlusion: 'picture' },
})

const pattern = (x: number, y: number, z: number): number =>
  0.5 + 0.2 * Math.sin(9 * x + 4 * y) + 0.15 * Math.sin(13 * y - 8 * z + 1)
const edges = (x: number, y: number, z: number): number =>
  pattern(x, y, z) + (Math.sin(31 * x + 1) * Math.sin(29 * y + 2) * Math.sin(33 * z) > 0 ? 0.15 : -0.15)

/** A pattern by texels, at the places that they were baked at. */
async function picture(mesh: Mesh, size: number, value: typeof pattern): Promise<Float32Array> {
  const { planes } = await bake(mesh, 'position', { width: size, padding: size })
  const { min, max } = boxOf(mesh)
  const scale = 2 / Math.max(...max.map((v, k) => v - min[k]!))
  const at = (i: number, k: number): number => (planes[k]![i]! - (min[k]! + max[k]!) / 2) * scale
  return Float32Array.from({ length: size * size }, (_, i) => value(at(i, 0), at(i, 1), at(i, 2)))
}

type Filter = readonly [type: string, params: Record<string, unknown>, port?: string, input?: string]

/** A filter's result, its last plane: over islands, or as of one picture. */
async function filtered(
  size: number,
  values: Float32Array,
  [type, params, port = 'result', input = 'source']: Filter,
  islands: KeptPatches | null,
): Promise<Float32Array> {
  const document = documentOf({
    domain: { kind: 'part', on: facts(2) },
    heightMetres: 0.05,
    nodes: {
      data: { type: 'mesh-data', params: { kind: 'occlusion' } },
      filter: { type, params, inputs: { [input]: 'data.grey' } },
    },
    taps: { out: { node: `filter.${port}` } },
  })
  const session = materialHere(document, {
    images: { load: async () => ({ width: size, height: size, channels: 1, values, bits: 32, float: true }) },
    ...(islands ? { islands } : {}),
  })
  const { fields } = await session.evaluate({ outputs: [parseOutput(`filter.${port}`)], width: size })
  return fields.get(`filter.${port}`)!.planes.at(-1)!
}

describe('a cube of six faces, each an island turned another way', () => {
  const [size, side] = [192, 40]
  /** Outward axis, and the axes of a face to the right and down, seen from outside. */
  const faces = [
    [
      [1, 0, 0],
      [0, 0, -1],
      [0, -1, 0],
    ],
    [
      [-1, 0, 0],
      [0, 0, 1],
      [0, -1, 0],
    ],
    [
      [0, 1, 0],
      [1, 0, 0],
      [0, 0, 1],
    ],
    [
      [0, -1, 0],
      [1, 0, 0],
      [0, 0, -1],
    ],
    [
      [0, 0, 1],
      [1, 0, 0],
      [0, -1, 0],
    ],
    [
      [0, 0, -1],
      [-1, 0, 0],
      [0, -1, 0],
    ],
  ] as const
  /** Where the middle of each face lies, and how far it is turned, in radians. */
  const lay = faces.map((_, f) => ({ x: 34.3 + 61 * (f % 3), y: 40.6 + 70 * Math.floor(f / 3), turn: 0.3 + 1.1 * f }))
  const cube = (): Mesh => {
    const [positions, uvs, triangles]: [number[], number[], number[]] = [[], [], []]
    faces.forEach(([out, right, down], f) => {
      const { x, y, turn } = lay[f]!
      for (const [s, t] of [
        [-1, -1],
        [1, -1],
        [-1, 1],
        [1, 1],
      ] as const) {
        positions.push(...out.map((v, k) => v + right[k]! * s + down[k]! * t))
        const [u, v] = [(s * side) / 2, (t * side) / 2]
        uvs.push((x + u * Math.cos(turn) - v * Math.sin(turn)) / size)
        uvs.push((y + u * Math.sin(turn) + v * Math.cos(turn)) / size)
      }
      const first = f * 4
      triangles.push(first, first + 2, first + 1, first + 1, first + 2, first + 3)
    })
    return finishMesh({
      positions: Float32Array.from(positions),
      normals: null,
      uvSets: [Float32Array.from(uvs)],
      colours: null,
      triangles: Uint32Array.from(triangles),
      parts: [{ name: 'cube', material: null, from: 0, count: 12, uvSets: 1 }],
      notes: [],
    })
  }
  /** A pattern that goes on over the edges as it does over paper folded about them. */
  const soft = (x: number, y: number, z: number): number =>
    0.5 + 0.2 * Math.sin(4 * x + 2 * y) + 0.15 * Math.sin(5 * z - y)

  test('is blurred within 1/255 wherever a corner is out of reach (a sum over the unfolded faces, by hand)', async () => {
    const mesh = cube()
    const sigma = 2
    const reach = 3 * sigma
    const islands = new KeptPatches({ load: async () => mesh })
    const made = await filtered(size, await picture(mesh, size, soft), ['blur', { radius: sigma / size }], islands)
    const topology = topologyOf(mesh, mesh.parts[0]!, 0)
    const { owner } = await coverOf(topology, unfold(topology, size, size))
    const perTexel = 2 / side
    /** The pattern at a place of a face; beyond one of its edges, on the face that is folded up there. */
    const on = (f: number, s: number, t: number): number => {
      const [out, right, down] = faces[f]!
      const place = [0, 1, 2].map((k) => {
        const [a, b] = [Math.max(-1, Math.min(1, s)), Math.max(-1, Math.min(1, t))]
        return out[k]! * (1 - Math.abs(s - a) - Math.abs(t - b)) + right[k]! * a + down[k]! * b
      })
      return soft(place[0]!, place[1]!, place[2]!)
    }
    let error = 0
    let looked = 0
    for (let i = 0; i < made.length; i += 3) {
      const f = owner[i]!
      if (f < 0) continue
      const { x, y, turn } = lay[f]!
      const [dx, dy] = [(i % size) + 0.5 - x, Math.floor(i / size) + 0.5 - y]
      const s = (dx * Math.cos(turn) + dy * Math.sin(turn)) * perTexel
      const t = (-dx * Math.sin(turn) + dy * Math.cos(turn)) * perTexel
      if (Math.max(Math.abs(s), Math.abs(t)) > 1) continue
      if (Math.min(Math.abs(s), Math.abs(t)) > 1 - (reach + 3) * perTexel) continue
      let [sum, weights] = [0, 0]
      for (let q = -reach - 2; q <= reach + 2; q++)
        for (let p = -reach - 2; p <= reach + 2; p++) {
          const weight = Math.exp(-(p * p + q * q) / (2 * sigma * sigma))
          sum += weight * on(f, s + p * perTexel, t + q * perTexel)
          weights += weight
        }
      error = Math.max(error, Math.abs(made[i]! - sum / weights))
      looked++
    }
    expect(looked).toBeGreaterThan(1000)
    expect(error).toBeLessThan(1 / 255)
  })
})

describe('a head, unwrapped into 47 islands', () => {
  const size = 1024
  let mesh: Mesh
  let smooth: Float32Array
  let islands: KeptPatches
  const stepsOf = (plane: Float32Array): number[] => seamSteps(topologyOf(mesh, mesh.parts[0]!, 0), plane, size)
  const stepOf = async (values: Float32Array, filter: Filter, over: KeptPatches | null = islands): Promise<number> =>
    percentile(stepsOf(await filtered(size, values, filter, over)), 0.99)
  beforeAll(async () => {
    mesh = await unwrappedHead(size)
    islands = new KeptPatches({ load: async () => mesh })
    smooth = await picture(mesh, size, pattern)
  }, 60_000)

  test('is the one that the design names', () => {
    expect(topologyOf(mesh, mesh.parts[0]!, 0).islands).toHaveLength(47)
    expect(mesh.triangles).toHaveLength(3 * 14842)
  })

  test('needs tables of 15 MB at most at 2048 for a reach of 32 texels', async () => {
    const set = await patchesOf(topologyOf(mesh, mesh.parts[0]!, 0), 2048, 2048, 32)
    const bytes = patchArrays(set).reduce((sum, { byteLength }) => sum + byteLength, 0)
    expect(bytes).toBeLessThanOrEqual(15e6)
    // Texels within 32 of a border, which no table can do without.
    expect(bytes).toBeGreaterThan(10e6)
    expect(patchCount(set)).toBe(47)
  })

  test('has the same pattern on both sides of every seam where it is laid out in space', () => {
    expect(percentile(stepsOf(smooth), 0.99)).toBeLessThan(1 / 255)
  })

  const filters: readonly Filter[] = [
    ['blur', { radius: 4 / size }],
    ['blur', { radius: 8 / size }],
    ['high-pass', { radius: 4 / size }],
    ['sharpen', { radius: 4 / size }],
    ['grow', { radius: 3 / size }],
    ['height-to-normal', {}, 'normal', 'height'],
    ['height-to-occlusion', { radius: 0.05 }, 'occlusion', 'height'],
    ['curvature', { radius: 4 / size }, 'curvature', 'height'],
    ['bevel', { width: 40 / size, profile: 'smooth' }, 'height'],
    ['distance', { range: 40 / size }, 'halo'],
    ['distance', { range: 40 / size }, 'inside'],
  ]
  test.each(filters.map((filter) => ({ filter })))(
    '$filter steps by less than 1/255 over 99 of 100 places of its seams',
    async ({ filter }) => {
      expect(await stepOf(smooth, filter)).toBeLessThan(1 / 255)
    },
  )

  test('one that reads farther than tables are made for at full size does so too; as one picture it steps ten times as far', async () => {
    const filter: Filter = ['blur', { radius: 40 / size }]
    expect(await stepOf(smooth, filter)).toBeLessThan(1 / 255)
    expect(await stepOf(smooth, filter, null)).toBeGreaterThan(10 / 255)
  })

  test('a blur of hard edges steps by less than 1/255; as one picture it would step by more than twenty times that', async () => {
    const hard = await picture(mesh, size, edges)
    const filter: Filter = ['blur', { radius: 4 / size }]
    expect(await stepOf(hard, filter)).toBeLessThan(1 / 255)
    expect(await stepOf(hard, filter, null)).toBeGreaterThan(20 / 255)
  })
})
