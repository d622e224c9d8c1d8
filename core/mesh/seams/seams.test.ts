import type { RasterImage } from '../../field/pyramid'
import type { MaterialDocument } from '../../document/document'
import type { PartFacts } from '../../document/domain'
import { BOX, patchAt, patchCount } from '../../field/patches'
import { newRead, unpackRead } from '../../field/reads'
import type { IslandThreads } from '../../engine/island-threads'
import { islandsHere } from '../../engine/island-threads'
import { GristError } from '../../errors'
import { openThreads } from '#runtime/node/threads'
import { cosTurns, sinTurns } from '../../elementary'
import { bitsOf, documentOf } from '../../testing/examples'
import { materialHere } from '../../testing/material-here'
import { parseOutput } from '../../document/address'
import { partRims } from '../bake-part'
import type { Mesh } from '../mesh'
import { finishMesh } from '../mesh'
import { tapAt } from '../testing/seam-steps'
import { KeptPatches } from './island-patches'
import { coverOf } from './cover'
import { patchesOf } from './patches'
import { fillRims, rimsOf } from './rims'
import { INNER, OPEN, SEAM, topologyOf } from './topology'
import { unfold } from './unfolding'

const SIZE = 128
/** Texels once around a cylinder of one metre around. */
const AROUND = 64

interface Strip {
  /** Share of the way around where it begins and ends, and where that lies in the picture: a texel, and turned by a quarter or mirrored. */
  readonly from: number
  readonly to: number
  readonly place: (along: number, up: number) => [number, number]
}

/** An upright cylinder, open at both ends, in strips; `up` and `along` in texels. */
function cylinder(strips: readonly Strip[], tall = 48): Mesh {
  const [positions, uvs, triangles]: [number[], number[], number[]] = [[], [], []]
  const radius = 1 / (2 * Math.PI)
  for (const { from, to, place } of strips) {
    const columns = 16 * (to - from)
    const first = positions.length / 3
    for (let i = 0; i <= columns; i++)
      for (const up of [0, tall]) {
        const turn = from + ((to - from) * i) / columns
        positions.push(radius * sinTurns(turn % 1), up / AROUND, radius * cosTurns(turn % 1))
        const [x, y] = place((turn - from) * AROUND, up)
        uvs.push(x / SIZE, y / SIZE)
      }
    for (let i = 0; i < columns; i++) {
      const at = first + 2 * i
      triangles.push(at, at + 2, at + 1, at + 1, at + 2, at + 3)
    }
  }
  const count = triangles.length / 3
  return finishMesh({
    positions: Float32Array.from(positions),
    normals: null,
    uvSets: [Float32Array.from(uvs)],
    colours: null,
    triangles: Uint32Array.from(triangles),
    parts: [{ name: 'cylinder', material: null, from: 0, count, uvSets: 1 }],
    notes: [],
  })
}

const ONE: Strip[] = [{ from: 0, to: 1, place: (along, up) => [24 + along, 90 - up] }]
const HALVES: Strip[] = [
  { from: 0, to: 0.5, place: (along, up) => [10 + along, 70 - up] },
  // A quarter turn.
  { from: 0.5, to: 1, place: (along, up) => [65 + up, 20 + along] },
]
const MIRRORED: Strip[] = [
  { from: 0, to: 0.5, place: (along, up) => [10 + along, 70 - up] },
  { from: 0.5, to: 1, place: (along, up) => [110 - along, 70 - up] },
]

/** Strips of eight texels, each with eight between it and the next. */
const NARROW: Strip[] = Array.from({ length: 8 }, (_, k) => ({
  from: k / 8,
  to: (k + 1) / 8,
  place: (along, up) => [4 + 16 * k + along, 90 - up],
}))

/** What a place of the cylinder holds: periodic around it. */
const pattern = (around: number, up: number): number =>
  0.5 + 0.3 * sinTurns(around * 3) + 0.15 * sinTurns(around * 7 + up * 2) + 0.05 * cosTurns(up * 5)

/** The pattern by texels of the picture, as a bake would have it: what belongs to no strip is far off. */
async function picture(mesh: Mesh, strips: readonly Strip[], size = SIZE): Promise<RasterImage> {
  const topology = topologyOf(mesh, mesh.parts[0]!, 0)
  const { owner } = await coverOf(topology, unfold(topology, size, size))
  const values = new Float32Array(size * size).fill(9)
  for (let i = 0; i < values.length; i++) {
    if (owner[i]! < 0) continue
    const { from, place } = strips[owner[i]!]!
    values[i] = pattern(...inverse(place, ...placeOf(i, size), from))
  }
  return { width: size, height: size, channels: 1, values, bits: 32, float: true }
}

/** Where the middle of a texel lies in a picture of SIZE texels. */
const placeOf = (texel: number, size: number): [number, number] => [
  (((texel % size) + 0.5) * SIZE) / size,
  ((Math.floor(texel / size) + 0.5) * SIZE) / size,
]

/** Where a texel lies on the cylinder: shares around it and up it. `place` is affine. */
function inverse(place: Strip['place'], x: number, y: number, from: number): [number, number] {
  const [ox, oy] = place(0, 0)
  const [ax, ay] = place(1, 0)
  const [ux, uy] = place(0, 1)
  const [a, b, c, d] = [ax - ox, ux - ox, ay - oy, uy - oy]
  const twice = a * d - b * c
  const along = ((x - ox) * d - (y - oy) * b) / twice
  const up = ((y - oy) * a - (x - ox) * c) / twice
  return [from + along / AROUND, up / AROUND]
}

const facts: PartFacts = {
  name: 'Cylinder',
  mesh: 'cylinder',
  part: 0,
  uvSet: 0,
  metres: SIZE / AROUND,
  box: { min: [-1, 0, -1], max: [1, 1, 1] },
  modelBox: { min: [-1, 0, -1], max: [1, 1, 1] },
  data: { occlusion: 'picture' },
}

const documentWith = (
  type: string,
  params: Record<string, unknown>,
  port = 'result',
  input = 'source',
): MaterialDocument =>
  documentOf({
    domain: { kind: 'part', on: facts },
    heightMetres: 0.05,
    nodes: {
      data: { type: 'mesh-data', params: { kind: 'occlusion' } },
      filter: { type, params, inputs: { [input]: 'data.grey' } },
    },
    taps: { out: { node: `filter.${port}` } },
  })

async function filtered(
  mesh: Mesh,
  strips: readonly Strip[],
  document: MaterialDocument,
  port = 'result',
  over = true,
  size = SIZE,
) {
  const image = await picture(mesh, strips, size)
  const session = materialHere(document, {
    images: { load: async () => image },
    ...(over ? { islands: new KeptPatches({ load: async () => mesh }) } : {}),
  })
  const { fields } = await session.evaluate({ outputs: [parseOutput(`filter.${port}`)], width: size })
  return fields.get(`filter.${port}`)!
}

/** The Gaussian blur of the pattern on the endless cylinder, summed by hand far enough out. */
function blurredPattern(around: number, up: number, sigma: number): number {
  let [sum, weights] = [0, 0]
  const reach = Math.ceil(4 * sigma)
  for (let y = -reach; y <= reach; y++)
    for (let x = -reach; x <= reach; x++) {
      const weight = Math.exp(-(x * x + y * y) / (2 * sigma * sigma))
      sum += weight * pattern(around + x / AROUND, up + y / AROUND)
      weights += weight
    }
  return sum / weights
}

/** The greatest error over the cores of strips, `margin` texels and more from the cylinder's ends. */
async function errorOf(
  mesh: Mesh,
  strips: readonly Strip[],
  made: Float32Array,
  margin: number,
  expected: (around: number, up: number) => number,
  tall = 48,
): Promise<number> {
  const size = Math.sqrt(made.length)
  const topology = topologyOf(mesh, mesh.parts[0]!, 0)
  const { owner } = await coverOf(topology, unfold(topology, size, size))
  let error = 0
  for (let i = 0; i < made.length; i++) {
    // Every fifth texel will do: five and the width have no common divisor.
    if (owner[i]! < 0 || i % 5 !== 0) continue
    const { from, to, place } = strips[owner[i]!]!
    const [around, up] = inverse(place, ...placeOf(i, size), from)
    if (around < from || around > to || up * AROUND < margin || up * AROUND > tall - margin) continue
    error = Math.max(error, Math.abs(made[i]! - expected(around, up)))
  }
  return error
}

test('edges are inner, seams or open borders: a cylinder in one strip has one seam, in halves two', () => {
  for (const [strips, seams] of [
    [ONE, 1],
    [HALVES, 2],
  ] as const) {
    const mesh = cylinder(strips)
    const { kind, islands, twin } = topologyOf(mesh, mesh.parts[0]!, 0)
    const count = (wanted: number): number =>
      kind.filter((one, edge) => one === wanted && (wanted === OPEN || twin[edge]! >= 0)).length
    expect(count(SEAM)).toBe(2 * seams)
    expect(count(OPEN)).toBe(32)
    expect(count(INNER) % 2).toBe(0)
    expect(islands).toHaveLength(seams)
  }
})

describe.each([
  ['one strip', ONE],
  ['two halves, one turned by a quarter', HALVES],
  ['two halves, one mirrored', MIRRORED],
] as const)('a cylinder in %s', (_, strips) => {
  const mesh = cylinder(strips)
  test('is blurred as if there were no seam: within 1/255 everywhere (a sum by hand)', async () => {
    const sigma = 3
    const document = documentWith('blur', { radius: sigma / SIZE })
    const expected = (around: number, up: number): number => blurredPattern(around, up, sigma)
    const made = await filtered(mesh, strips, document)
    expect(await errorOf(mesh, strips, made.planes[0]!, 10, expected)).toBeLessThan(1 / 255)
    const without = await filtered(mesh, strips, document, 'result', false)
    expect(await errorOf(mesh, strips, without.planes[0]!, 10, expected)).toBeGreaterThan(0.1)
  })
  test('has the same slopes as if there were no seam: they run with the picture, turned where it is', async () => {
    const { planes } = await filtered(mesh, strips, documentWith('height-to-normal', {}, 'normal', 'height'), 'normal')
    // How far the normal leans, whatever the direction: of the pattern's own slope.
    const lean = (around: number, up: number): number => {
      const step = 1 / AROUND
      const rise = 0.05
      const dx = ((pattern(around + step, up) - pattern(around - step, up)) / 2) * AROUND * rise
      const dy = ((pattern(around, up + step) - pattern(around, up - step)) / 2) * AROUND * rise
      return 1 / Math.sqrt(1 + dx * dx + dy * dy)
    }
    expect(await errorOf(mesh, strips, planes[2]!, 4, lean)).toBeLessThan(0.01)
  })
  test('grows and shrinks over the seam', async () => {
    const radius = 3
    const expected = (around: number, up: number): number => {
      let most = -Infinity
      for (let y = -radius; y <= radius; y++)
        for (let x = -radius; x <= radius; x++) most = Math.max(most, pattern(around + x / AROUND, up + y / AROUND))
      return most
    }
    const made = await filtered(mesh, strips, documentWith('grow', { radius: radius / SIZE, shape: 'square' }))
    expect(await errorOf(mesh, strips, made.planes[0]!, 8, expected)).toBeLessThan(1 / 255)
  })
})

test.each([
  ['blur', { radius: 9 / SIZE }, 'result', 'source', 1 / 255],
  ['high-pass', { radius: 9 / SIZE }, 'result', 'source', 0.04],
  ['height-to-occlusion', { radius: 27 / AROUND }, 'occlusion', 'height', 0.05],
] as const)(
  '%s that reads farther than 128 texels is done over coarse islands: the same however the surface is cut',
  async (type, params, port, input, most) => {
    // Four times as large: what reads 30 of a cylinder of 60 reads 120 texels, and half as many again for both sides to meet.
    const size = 4 * SIZE
    const tall = 60
    const document = documentWith(type, params, port, input)
    const of = async (strips: readonly Strip[], over = true) => {
      const mesh = cylinder(strips, tall)
      return { mesh, plane: (await filtered(mesh, strips, document, port, over, size)).planes[0]! }
    }
    // A third of it has no neighbour of its own island in reach at one side.
    const [whole, halves, alone] = [await of(ONE), await of(HALVES), await of(HALVES, false)]
    const there = (around: number, up: number): number => {
      const [x, y] = ONE[0]!.place(around * AROUND, up * AROUND)
      return tapAt(whole.plane, size, x * 4, y * 4)
    }
    const margin = type === 'height-to-occlusion' ? 12 : 4
    expect(await errorOf(halves.mesh, HALVES, halves.plane, margin, there, tall)).toBeLessThan(most)
    expect(await errorOf(alone.mesh, HALVES, alone.plane, margin, there, tall)).toBeGreaterThan(4 * most)
    if (type !== 'blur') return
    const expected = (around: number, up: number): number => blurredPattern(around, up, 9)
    expect(await errorOf(whole.mesh, ONE, whole.plane, 29, expected, tall)).toBeLessThan(1 / 255)
  },
)

test('pictures of islands come the largest first, each once', async () => {
  const mesh = cylinder([
    { ...HALVES[0]!, to: 0.25 },
    { ...HALVES[1]!, from: 0.25, to: 1 },
  ])
  const { boxes, order } = await patchesOf(topologyOf(mesh, mesh.parts[0]!, 0), SIZE, SIZE, 8)
  const sizes = [...order].map((patch) => boxes[patch * BOX + 2]! * boxes[patch * BOX + 3]!)
  expect([...order].sort()).toEqual([0, 1])
  expect(sizes[0]).toBeGreaterThan(sizes[1]!)
  expect(order[0]).toBe(1)
})

test('what belongs to no island is filled from the nearest texel of one', async () => {
  const mesh = cylinder(HALVES)
  const plane = (await filtered(mesh, HALVES, documentWith('blur', { radius: 3 / SIZE }))).planes[0]!
  const topology = topologyOf(mesh, mesh.parts[0]!, 0)
  const { owner } = await coverOf(topology, unfold(topology, SIZE, SIZE))
  let beyond = 0
  for (let at = 0; at < owner.length; at += 37) {
    if (owner[at]! >= 0) continue
    beyond++
    const [x, y] = [at % SIZE, Math.floor(at / SIZE)]
    let min = Infinity
    const nearest = new Set<number>()
    owner.forEach((island, other) => {
      if (island < 0) return
      const away = ((other % SIZE) - x) ** 2 + (Math.floor(other / SIZE) - y) ** 2
      if (away < min) nearest.clear()
      min = Math.min(min, away)
      if (away === min) nearest.add(plane[other]!)
    })
    expect(nearest).toContain(plane[at]!)
  }
  expect(beyond).toBeGreaterThan(100)
})

test('distances go over seams: to a ring around the cylinder, whatever the cut (closed form)', async () => {
  // A mask of what lies within 4 texels of a line up the cylinder, a texel and a half from where it is cut in halves.
  const [middle, half] = [0.5 + 1.5 / AROUND, 4 / AROUND]
  const away = (around: number): number => Math.min(Math.abs(around - middle), 1 - Math.abs(around - middle))
  for (const strips of [ONE, HALVES, MIRRORED]) {
    const mesh = cylinder(strips)
    const topology = topologyOf(mesh, mesh.parts[0]!, 0)
    const { owner } = await coverOf(topology, unfold(topology, SIZE, SIZE))
    const values = Float32Array.from(owner, (island, i) => {
      if (island < 0) return 0
      const { from, place } = strips[island]!
      return 0.5 + (half - away(floorOne(inverse(place, ...placeOf(i, SIZE), from)[0]))) * 4
    })
    const document = documentWith('distance', { range: 12 / SIZE }, 'outside')
    const image = { width: SIZE, height: SIZE, channels: 1, values, bits: 32, float: true } as const
    const session = materialHere(document, {
      images: { load: async () => image },
      islands: new KeptPatches({ load: async () => mesh }),
    })
    const { fields } = await session.evaluate({ outputs: [parseOutput('filter.outside')], width: SIZE })
    const made = fields.get('filter.outside')!.planes[0]!.map((value) => Math.min(value, 10 / SIZE))
    const expected = (around: number): number =>
      Math.min(Math.max(0, (away(floorOne(around)) - half) * AROUND), 10) / SIZE
    // Within a quarter of a texel.
    expect(await errorOf(mesh, strips, made, 0, expected)).toBeLessThan(0.25 / SIZE)
  }
})

const floorOne = (share: number): number => share - Math.floor(share)

test.each([
  ['one strip', ONE],
  ['halves, one turned', HALVES],
  ['halves, one mirrored', MIRRORED],
  ['eight narrow strips', NARROW],
] as const)('areas go over seams: of a cylinder in %s', async (_, strips) => {
  const mesh = cylinder(strips)
  const topology = topologyOf(mesh, mesh.parts[0]!, 0)
  const { owner } = await coverOf(topology, unfold(topology, SIZE, SIZE))
  const placeAt = (i: number): [number, number] => {
    const { from, place } = strips[owner[i]!]!
    return inverse(place, ...placeOf(i, SIZE), from)
  }
  // A ring around the foot, and two spots above it that lie over from each other.
  const areaAt = (i: number): number => {
    const [around, up] = [floorOne(placeAt(i)[0]), placeAt(i)[1] * AROUND]
    if (up > 6 && up < 14) return 1
    if (up < 24 || up > 34) return 0
    return Math.abs(around - 0.5) < 0.08 ? 2 : around < 0.08 || around > 0.92 ? 3 : 0
  }
  const values = Float32Array.from(owner, (island, i) => (island < 0 ? 1 : areaAt(i) === 0 ? 0 : 1))
  const document = documentWith('regions', {}, 'value')
  const image = { width: SIZE, height: SIZE, channels: 1, values, bits: 32, float: true } as const
  const session = materialHere(document, {
    images: { load: async () => image },
    islands: new KeptPatches({ load: async () => mesh }),
  })
  const { fields } = await session.evaluate({
    outputs: ['value', 'size'].map((port) => parseOutput(`filter.${port}`)),
    width: SIZE,
  })
  const [value, size] = ['value', 'size'].map((port) => fields.get(`filter.${port}`)!.planes[0]!)
  const found = new Map<number, Set<number>>()
  owner.forEach((island, i) => {
    // What lies in the middle of a texel of an island; rims hang on to one of the two.
    const [around, up] = island < 0 ? [-1, -1] : placeAt(i)
    const { from = 1, to = 0 } = strips[island] ?? {}
    if (around < from || around > to || up < 0 || up * AROUND > 48) return
    const area = areaAt(i)
    found.set(area, (found.get(area) ?? new Set()).add(area === 0 ? size![i]! : value![i]!))
  })
  expect([...found.get(0)!]).toEqual([0])
  for (const area of [1, 2, 3]) expect(found.get(area)!.size).toBe(1)
  expect(new Set([1, 2, 3].map((area) => [...found.get(area)!][0])).size).toBe(3)
})

test.each([
  ['warp', { along: 'slope', strength: 4 / SIZE, steepness: 8 }, 'result', 'driver', HALVES],
  ['height-to-occlusion', { radius: 14 / AROUND }, 'occlusion', 'height', HALVES],
  ['height-to-occlusion', { radius: 14 / AROUND }, 'occlusion', 'height', NARROW],
] as const)('%s with %j gives the same however the surface is cut', async (type, params, port, input, strips) => {
  const of = async (cut: readonly Strip[]) => {
    const mesh = cylinder(cut)
    const document = documentWith(type, params, port, input)
    if (type === 'warp') document.nodes.filter!.inputs!.source = 'data.grey'
    return { mesh, plane: (await filtered(mesh, cut, document, port)).planes[0]! }
  }
  const [whole, cut] = [await of(ONE), await of(strips)]
  const there = (around: number, up: number): number => {
    const [x, y] = ONE[0]!.place(around * AROUND, up * AROUND)
    return whole.plane[Math.floor(y) * SIZE + Math.floor(x)]!
  }
  // Where a strip is turned, rays and steps run in other directions of the picture.
  const most = strips === NARROW ? 1e-4 : type === 'warp' ? 0.02 : 0.01
  expect(await errorOf(cut.mesh, strips, cut.plane, 18, there)).toBeLessThan(most)
})

test('normals that lean along the surface are turned with the picture', async () => {
  const mesh = cylinder(HALVES)
  const patches = await patchesOf(topologyOf(mesh, mesh.parts[0]!, 0), SIZE, SIZE, 8)
  // From the first half into the second a quarter turn either way; the other way back.
  const turns = [0, 1].map((number) => {
    const { reads, fraction } = patchAt(patches, number)
    return new Set(
      Array.from({ length: reads.length / 2 }, (_, i) => {
        const { cosine, sine, mirror } = unpackRead(reads, i, fraction, newRead())
        return `${cosine.toFixed(3)} ${sine.toFixed(3)} ${mirror}`
      }),
    )
  })
  expect(patchCount(patches)).toBe(2)
  for (const one of turns)
    expect([...one].every((turn) => /^-?0\.000 -?1\.000 1$|^1\.000 0\.000 1$/.test(turn))).toBe(true)
  expect(turns.some((one) => [...one].some((turn) => turn.startsWith('0.000 1.000')))).toBe(true)
})

test('texels beyond a border have what lies where the surface goes on, directions turned with the picture', async () => {
  const mesh = cylinder(HALVES)
  const topology = topologyOf(mesh, mesh.parts[0]!, 0)
  const { owner } = await coverOf(topology, unfold(topology, SIZE, SIZE))
  const rims = await rimsOf(topology, SIZE, SIZE)
  // The second half leans along the picture, to the right; the first does not lean.
  const planes = [0, 1, 2].map(() => new Float32Array(SIZE * SIZE))
  owner.forEach((island, i) => planes[island === 1 ? 0 : 2]!.fill(1, i, i + 1))
  const known = Uint8Array.from(owner, (island) => Number(island >= 0))
  fillRims(rims, planes, known, SIZE, { turned: true, unit: true })
  const [xs, ys] = planes as [Float32Array, Float32Array]
  const turned = [...rims.texels].filter((texel) => owner[texel] === 0 && Math.abs(ys[texel]!) > 0.99)
  expect(turned.length).toBeGreaterThan(40)
  for (const texel of turned) expect(Math.abs(xs[texel]!)).toBeLessThan(1e-6)
  // Between a normal that leans and one that does not it is of length 1 still.
  for (const texel of rims.texels) expect(planes.reduce((sum, plane) => sum + plane[texel]! ** 2, 0)).toBeCloseTo(1, 5)
  // What is not known anywhere gives nothing on.
  const nothing = new Uint8Array(SIZE * SIZE)
  const before = planes.map((plane) => plane.slice())
  fillRims(rims, planes, nothing, SIZE)
  expect(planes).toEqual(before)
  expect(nothing.includes(1)).toBe(false)
})

test('gives the same bits on one thread and on two', async () => {
  const mesh = cylinder(HALVES)
  const document = documentWith('blur', { radius: 5 / SIZE })
  const here = await filtered(mesh, HALVES, document)
  const threads = openThreads(2)
  try {
    const image = await picture(mesh, HALVES)
    const islands = new KeptPatches({ load: async () => mesh }, threads)
    const session = materialHere(document, { executor: threads, images: { load: async () => image }, islands })
    const { fields } = await session.evaluate({ outputs: [parseOutput('filter.result')], width: SIZE })
    expect(bitsOf(fields.get('filter.result')!)).toEqual(bitsOf(here))
  } finally {
    await threads.close()
  }
})

test('outputs are padded from the nearest texel of an island: nothing else is left between them', async () => {
  const mesh = cylinder(ONE)
  const layered = documentOf({
    domain: { kind: 'part', on: facts },
    nodes: { data: { type: 'mesh-data', params: { kind: 'occlusion' } } },
    layers: [{ kind: 'layer', id: 'one', name: 'One', cells: { roughness: { source: { node: 'data.grey' } } } }],
  })
  const image = await picture(mesh, ONE)
  const session = materialHere(layered, {
    images: { load: async () => image },
    islands: new KeptPatches({ load: async () => mesh }),
  })
  const { fields } = await session.evaluate({ outputs: [parseOutput('roughness')], width: SIZE })
  const [made] = fields.get('roughness')!.planes
  const own = (x: number, y: number): boolean => image.values[y * SIZE + x]! < 9
  for (const [x, y] of [
    [2, 60],
    [60, 2],
    [120, 120],
    [0, 0],
  ] as const) {
    // By hand: all of them, the nearest by the square of its distance.
    let [nearest, expected] = [Infinity, [] as number[]]
    for (let q = 0; q < SIZE; q++)
      for (let p = 0; p < SIZE; p++) {
        if (!own(p, q)) continue
        const away = (p - x) ** 2 + (q - y) ** 2
        if (away > nearest) continue
        expected = away < nearest ? [image.values[q * SIZE + p]!] : [...expected, image.values[q * SIZE + p]!]
        nearest = away
      }
    expect(expected).toContain(made![y * SIZE + x])
  }
  expect(Math.max(...made!)).toBeLessThan(2)
})

test('making patches is given up when nobody wants them any more, and only then', async () => {
  const kept = new KeptPatches({ load: async () => cylinder(HALVES) })
  const get = (isCancelled: () => boolean) => kept.get(facts, 2048, 2048, 32, isCancelled)
  const [given, wanted] = [get(() => true), get(() => false)]
  expect(patchCount(await wanted)).toBe(2)
  expect(patchCount(await given)).toBe(2)
  const other = new KeptPatches({ load: async () => cylinder(HALVES) })
  await expect(other.get(facts, 2048, 2048, 32, () => true)).rejects.toMatchObject({ code: 'cancelled' })
  // What was given up is made when it is wanted again.
  expect(patchCount(await other.get(facts, 512, 512, 8, () => false))).toBe(2)
})

test('who asks for patches that are being given up gets some of their own', async () => {
  const here = islandsHere()
  let [isFirst, isUnwanted] = [true, false]
  const threads: IslandThreads = {
    ...here,
    doIslands: async (work, isCancelled) => {
      if (!isFirst) return here.doIslands(work, isCancelled)
      isFirst = false
      isUnwanted = true
      // They hear of it, and are done a little later.
      expect(isCancelled()).toBe(true)
      await new Promise((resolve) => setTimeout(resolve, 50))
      throw new GristError('cancelled', 'The work was cancelled.')
    },
  }
  const kept = new KeptPatches({ load: async () => cylinder(HALVES) }, threads)
  const given = kept.get(facts, 128, 128, 8, () => isUnwanted)
  await new Promise((resolve) => {
    const look = (): void => void (isUnwanted ? resolve(null) : setTimeout(look, 1))
    look()
  })
  const wanted = kept.get(facts, 128, 128, 8, () => false)
  await expect(given).rejects.toMatchObject({ code: 'cancelled' })
  expect(patchCount(await wanted)).toBe(2)
})

test('finding rims is given up when nobody wants them any more', async () => {
  const mesh = cylinder(HALVES)
  const lying = { mesh, part: mesh.parts[0]!, uvSet: 0, target: { width: 4096, height: 4096, left: 0, top: 0 } }
  await expect(partRims(lying, () => true)).rejects.toMatchObject({ code: 'cancelled' })
})
