import { cosTurns, sinTurns } from '../elementary'
import { plainMemory } from '../field/field'
import { randomNumbers } from '../testing/random-values'
import { soup } from '../testing/solids'
import type { BakeThreads } from './bake-part'
import { bakePart, standardOptions, traced } from './bake-part'
import { RowsBaker } from './bake-rows'
import { QUALITIES } from './bake-settings'
import { bakers } from './bakers/bakers.generated'
import { broughtIn, usualMeaning } from './brought-in'
import { cageFor } from './cage'
import type { Mesh } from './mesh'
import { finishMesh } from './mesh'
import { packMesh, unpackMesh } from './packed-mesh'
import { readPly } from './formats/ply'
import { ball, bake, flatNormals, ground, kind, meshOf, swept } from './testing/bake-here'
import { blockObj } from './testing/shapes'
import { shownBy, vertexResult } from './vertex-result'
import { writePly } from './write-ply'

/** Of a box of 2 × 1 × 3 m. */
const scale = {
  options: standardOptions({ positions: new Float32Array([-1, 0, 0, 1, 1, 3]), triangles: new Uint32Array([0, 1]) }),
  box: { min: [-1, 0, 0], max: [1, 1, 3] },
}

const near = (value: number, expected: number, within: number): void =>
  expect(Math.abs(value - expected)).toBeLessThan(within)

describe('forms of the handbook', () => {
  // Mean normal curvature of a cylinder is half of 1/r (Euler: k = cos²/r over all directions).
  test('a cylinder bends by half of what a ball of its radius does', async () => {
    const r = 0.5
    const tube = swept(
      (s, t) => {
        const out = [sinTurns(s), 0, cosTurns(s)]
        return { place: [out[0]! * r, 2 - 4 * t, out[2]! * r], normal: out }
      },
      8,
      256,
    )
    const { planes } = await bake(tube, 'curvature', { width: 64, height: 32, options: { radius: 0.05 } })
    planes[0]!.subarray(64 * 8, 64 * 24).forEach((v) => near(v * r, 0.5, 0.06))
  })

  /** Two faces of 1 m along a line in the middle of the tile, folded by so many turns: a ridge, or a valley where they are negative. */
  const fold = (turns: number): Mesh => {
    const [c, d] = [cosTurns(turns / 2), sinTurns(turns / 2)]
    return meshOf(
      [
        ...[`v ${-c} ${-d} 1`, 'v 0 0 1', 'v 0 0 -1', `v ${-c} ${-d} -1`, `v ${c} ${-d} 1`, `v ${c} ${-d} -1`],
        ...['vt 0 0', 'vt 0.5 0', 'vt 0.5 1', 'vt 0 1', 'vt 1 0', 'vt 1 1', `vn ${-d} ${c} 0`, `vn ${d} ${c} 0`],
        ...['f 1/1/1 2/2/1 3/3/1 4/4/1', 'f 2/2/2 5/5/2 6/6/2 3/3/2'],
      ].join('\n'),
    )
  }
  const acrossFold = async (name: string, turns: number, samples: 1 | 16 = 16) => {
    const { planes } = await bake(fold(turns), name, { width: 64, height: 8, samples, options: { radius: 0.2 } })
    return planes[0]!.subarray(4 * 64, 5 * 64)
  }

  // On the line itself both faces have the same area within the radius: the mean normal is turned by half of the fold.
  test.each([
    [0.25, 16],
    [0.125, 16],
    [0.25, 1],
  ] as const)(
    'rounded edge: on a fold of %f turns it is the turn of half of that, on both sides',
    async (turns, samples) => {
      const ridge = await acrossFold('rounded-edge', turns, samples)
      const half = Math.sqrt(1 - cosTurns(turns / 2))
      near((ridge[31]! + ridge[32]!) / 2, half, 0.28 * half)
      for (let k = 0; k < 8; k++) near(ridge[31 - k]!, ridge[32 + k]!, samples === 1 ? 0.06 : 0.025)
      // Half of the radius away it is less; beyond it there is nothing.
      expect(ridge[35]!).toBeLessThan(0.9 * Math.max(...ridge))
      expect(ridge[37]!).toBeLessThan(ridge[35]!)
      for (const x of [0, 10, 24, 39, 50, 63]) near(ridge[x]!, 0, 1e-6)
      // A valley is as much, the other way.
      const valley = await acrossFold('rounded-edge', -turns, samples)
      for (let x = 20; x < 44; x++) near(valley[x]!, -ridge[x]!, 0.05)
    },
  )

  test('what is flat, and what bends evenly all around, turns nowhere', async () => {
    expect(Math.max(...(await acrossFold('rounded-edge', 0)).map(Math.abs))).toBe(0)
    const { planes } = await bake(ball(0.5), 'rounded-edge', {
      width: 32,
      height: 16,
      samples: 4,
      options: { radius: 0.05 },
    })
    // Away from the poles, where triangles are slivers.
    planes[0]!.subarray(32 * 4, 32 * 12).forEach((v) => near(v, 0, 0.05))
  })

  // Mean curvature of a torus: (R + 2 r cos v) / (2 r (R + r cos v)) (do Carmo, Differential Geometry of Curves and Surfaces, 3-3).
  test('a torus bends as its formula says, outside more than inside', async () => {
    const [R, r] = [1, 0.4]
    const torus = swept(
      (s, t) => {
        const [c, d] = [cosTurns(s), sinTurns(s)]
        const [e, f] = [cosTurns(t), sinTurns(t)]
        return { place: [(R + r * e) * c, r * f, (R + r * e) * d], normal: [e * c, f, e * d] }
      },
      128,
      256,
    )
    const { planes } = await bake(torus, 'curvature', { width: 16, height: 64, options: { radius: 0.04 } })
    for (let y = 2; y < 62; y += 3) {
      const v = cosTurns((y + 0.5) / 64)
      const mean = (R + 2 * r * v) / (2 * r * (R + r * v))
      near(planes[0]![y * 16 + 8]!, mean, 0.07 * Math.abs(mean) + 0.05)
    }
  })

  test('a bent normal over the floor of a corner leans away from the wall; in the open it is the normal', async () => {
    const wall = 'o wall\nv 0 0 -50\nv 0 0 50\nv 0 99 0\nf 5 6 7\n'
    const { planes, width } = await bake(meshOf(ground(2, wall)), 'bent-normal', {
      width: 64,
      options: { rays: 1024, reach: 0.5 },
    })
    const at = (x: number) => planes.map((plane) => plane[32 * width + x]!)
    // The half of a cosine-weighted hemisphere: its mean direction is (4 / 3π, 2/3) before it is brought to length 1.
    const [x, y] = [4 / (3 * Math.PI), 2 / 3]
    near(Math.abs(at(32)[0]!), x / Math.sqrt(x * x + y * y), 0.03)
    near(at(2)[1]!, 1, 1e-3)
  })
})

describe('occlusion against brute force', () => {
  test('RMS of 4096 rays is below .01, by another way through the triangles', async () => {
    const random = randomNumbers(4)
    const { positions, triangles } = soup(24, 0.8, random)
    const above = positions.map((v, i) => (i % 3 === 1 ? v + 0.4 : v * 2 - 1))
    const corners = (of: Float32Array, t: Uint32Array, i: number) =>
      [0, 1, 2].map((k) => [0, 1, 2].map((axis) => of[t[i + k]! * 3 + axis]!)) as number[][]
    const obj = `${ground(1)}o over\n${Array.from(triangles, (v) => `v ${above[v * 3]} ${above[v * 3 + 1]} ${above[v * 3 + 2]}`).join('\n')}\n${Array.from({ length: triangles.length / 3 }, (_, t) => `f ${5 + t * 3} ${6 + t * 3} ${7 + t * 3}`).join('\n')}\n`
    const mesh = meshOf(obj)
    const size = 4
    const { planes } = await bake(mesh, 'occlusion', { width: size, options: { rays: 4096, reach: 50, bias: 1e-5 } })
    let sum = 0
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++) {
        const [px, pz] = [(x + 0.5) / size - 0.5, (y + 0.5) / size - 0.5]
        let open = 0
        const count = 4096
        for (let k = 0; k < count; k++) {
          // Cosine-weighted by rejection: a point of the disc, lifted (Malley). Plain random numbers, no sequence.
          let [a, b] = [random() * 2 - 1, random() * 2 - 1]
          while (a * a + b * b > 1) [a, b] = [random() * 2 - 1, random() * 2 - 1]
          const way = [a, Math.sqrt(1 - a * a - b * b), b]
          const hit = Array.from({ length: triangles.length / 3 }, (_, t) => t * 3).some((t) =>
            meets([px, 1e-5, pz], way, corners(above, triangles, t)),
          )
          if (!hit) open++
        }
        sum += (planes[0]![y * size + x]! - open / count) ** 2
      }
    expect(Math.sqrt(sum / size ** 2)).toBeLessThan(0.01)
  })

  /** T. Möller, B. Trumbore, "Fast, minimum storage ray/triangle intersection", 1997. */
  function meets(from: number[], way: number[], [a, b, c]: number[][]): boolean {
    const minus = (p: number[], q: number[]) => p.map((v, k) => v - q[k]!)
    const cross = (p: number[], q: number[]) =>
      [0, 1, 2].map((k) => p[(k + 1) % 3]! * q[(k + 2) % 3]! - p[(k + 2) % 3]! * q[(k + 1) % 3]!)
    const dot = (p: number[], q: number[]) => p.reduce((sum, v, k) => sum + v * q[k]!, 0)
    const [e, f] = [minus(b!, a!), minus(c!, a!)]
    const p = cross(way, f)
    const d = dot(e, p)
    if (Math.abs(d) < 1e-12) return false
    const t = minus(from, a!)
    const u = dot(t, p) / d
    const q = cross(t, e)
    const v = dot(way, q) / d
    return u >= 0 && v >= 0 && u + v <= 1 && dot(f, q) / d > 0
  }
})

describe('what is seen from the high twin', () => {
  test('a floor whose twin lies above it is as open as the twin is: rays begin there', async () => {
    const low = meshOf(ground(2))
    const twin = meshOf('v -1 0.01 1\nv 1 0.01 1\nv 1 0.01 -1\nv -1 0.01 -1\nf 1 2 3 4\n')
    const { planes } = await bake(low, 'occlusion', { high: twin, options: { reach: 9 } })
    expect(Math.min(...planes[0]!)).toBe(1)
  })

  test('a cage says from where the twin is looked for, farther than the distance; its vertices may be numbered anew', async () => {
    const low = meshOf(ground(2))
    const twin = meshOf('v -1 0.5 1\nv 1 0.5 1\nv 1 0.5 -1\nv -1 0.5 -1\nf 1 2 3 4\n')
    const options = { front: 0.01, back: 0.01 }
    const alone = await bake(low, 'height', { high: twin, options }).catch((error: Error) => error)
    expect(alone).toMatchObject({ missed: 32 * 32 })
    const grown = meshOf('v -1 1 -1\nv -1 1 1\nv 1 1 1\nv 1 1 -1\nf 2 3 4 1\n')
    const { planes, missed } = await bake(low, 'height', { high: twin, cage: cageFor(low, grown), options })
    expect(missed).toBe(0)
    planes[0]!.forEach((v) => near(v, 0.5, 1e-5))
    expect(() => cageFor(low, meshOf(blockObj(1, 1, 1)))).toThrow('expected 2 but it has 12')
  })

  test('texels that were missed are told one by one', async () => {
    const low = meshOf(ground(2))
    const half = meshOf('v -1 0.01 1\nv 0 0.01 1\nv 0 0.01 -1\nv -1 0.01 -1\nf 1 2 3 4\n')
    const { missedAt } = await bake(low, 'normal', { high: half, width: 16 })
    expect([...missedAt!].map((is, i) => is === (i % 16 < 8 ? 0 : 1)).every(Boolean)).toBe(true)
  })
})

describe('leaks', () => {
  /** A wall from y = 0 to 2 that faces +Z, with the whole tile, and what stands before or above it. */
  const wall = (more: string) =>
    meshOf(`o wall\nv -1 0 0\nv 1 0 0\nv 1 2 0\nv -1 2 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n${more}`)
  const options = { leakLength: 0.5, leakVariation: 0, bias: 1e-4 }
  /** Down the middle, by its height. */
  async function down(mesh: Mesh): Promise<(y: number) => number> {
    const { planes } = await bake(mesh, 'leaks', { width: 64, options })
    return (y) => planes[0]![Math.floor((1 - y / 2) * 64) * 64 + 32]!
  }

  test('below a ledge they begin at 1 and fall to 0 over their length; far below there are none', async () => {
    const leak = await down(wall('o ledge\nv -1 1 0\nv 1 1 0\nv 1 1 0.3\nv -1 1 0.3\nf 5 6 7 8\n'))
    near(leak(0.98), 1 - 0.02 / 0.5, 0.08)
    near(leak(0.75), 0.5, 0.08)
    near(leak(0.55), 0.1, 0.08)
    expect([leak(0.3), leak(0.1)]).toEqual([0, 0])
    // Over the ledge the nearest source is the wall's own upper rim.
    near(leak(1.75), 0.5, 0.08)
    expect(leak(1.2)).toBe(0)
  })

  test('what lies level has none, and lengths differ from place to place', async () => {
    const { planes } = await bake(meshOf(ground(2)), 'leaks', { options })
    expect(Math.max(...planes[0]!)).toBe(0)
    const varied = await bake(wall(''), 'leaks', { width: 64, options: { ...options, leakVariation: 0.8 } })
    const row = varied.planes[0]!.subarray(8 * 64, 9 * 64)
    expect(new Set(row.map((v) => Math.round(v * 50))).size).toBeGreaterThan(8)
  })
})

test('light of an even sky is 1 on a floor and ½ on a wall; the sun adds its cosine where nothing stands before it', async () => {
  const sky = { rays: 1024, sunShare: 0, reach: 50 }
  const floor = await bake(meshOf(ground(2)), 'light', { width: 8, options: sky })
  floor.planes[0]!.forEach((v) => near(v, 1, 1e-3))
  const upright = meshOf('v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nf 1/1 2/2 3/3 4/4\n')
  const side = await bake(upright, 'light', { width: 8, options: sky })
  side.planes[0]!.forEach((v) => near(v, 0.5, 0.02))
  // A twelfth of a turn is 30°: the sine is ½ on a floor.
  const sun = { rays: 16, sunShare: 1, sunHeightTurns: 1 / 12, sunTurns: 0 }
  const lit = await bake(meshOf(ground(2)), 'light', { width: 8, options: sun })
  lit.planes[0]!.forEach((v) => near(v, 0.5, 1e-5))
  // A wall in the south of the floor's middle throws its shadow to the north: the sun stands over +Z.
  const shadow = await bake(meshOf(ground(2, 'o w\nv -9 0 0\nv 9 0 0\nv 0 9 0\nf 5 6 7\n')), 'light', {
    width: 8,
    options: sun,
  })
  expect([shadow.planes[0]![2 * 8 + 4], shadow.planes[0]![6 * 8 + 4]].map((v) => Math.round(v! * 100))).toEqual([0, 50])
})

test('light is the same alone and beside the bent normal, whose rays it takes', async () => {
  const scene = meshOf(ground(2, 'o w\nv -9 0 0\nv 9 0 0\nv 0 9 0\nf 5 6 7\n'))
  const baked = async (...kinds: string[]) => {
    const { fields } = await bakePart({
      ...{ mesh: scene, part: scene.parts[0]!, uvSet: 0, samples: 1, padding: 0, scene: traced(scene), high: null },
      target: { width: 24, height: 24, left: 0, top: 0 },
      bakers: kinds.map(kind),
      options: { ...standardOptions(scene), rays: 16, fade: 0.5 },
    })
    return fields.get('light')!.planes[0]!
  }
  const alone = await baked('light')
  expect(new Set(alone).size).toBeGreaterThan(4)
  expect(await baked('bent-normal', 'light')).toEqual(alone)
})

describe('numbers', () => {
  test('pieces hang together over places, not over vertices; colours are told apart', async () => {
    const two = meshOf(
      'o a\nv 0 0 0 1 0 0\nv 1 0 0 1 0 0\nv 0 1 0 1 0 0\nv 1 0 0 0 0 1\nv 1 1 0 0 0 1\nv 0 1 0 0 0 1\nv 9 0 0 0 1 0\nv 9 1 0 0 1 0\nv 8 0 0 0 1 0\nvt 0 0\nvt 0.4 0\nvt 0 0.4\nvt 0.4 0.4\nvt 0.6 0.6\nvt 0.9 0.6\nvt 0.6 0.9\nf 1/1 2/2 3/3\nf 4/2 5/4 6/3\nf 7/5 8/6 9/7\n',
    )
    const pieces = (await bake(two, 'piece-id')).planes[0]!
    const colours = (await bake(two, 'colour-id')).planes[0]!
    const at = (u: number, v: number) => Math.floor((1 - v) * 32) * 32 + Math.floor(u * 32)
    expect([at(0.1, 0.1), at(0.3, 0.3), at(0.65, 0.65)].map((i) => pieces[i])).toEqual([1, 1, 2])
    expect([at(0.1, 0.1), at(0.35, 0.35), at(0.65, 0.65)].map((i) => colours[i])).toEqual([1, 2, 3])
  })

  test('an image’s colours are numbered by how often they are there; what lies between two joins the nearer', () => {
    const width = 10
    const red = [0.8, 0.1, 0.1]
    const texels = Array.from({ length: width }, (_, x) =>
      x < 6 ? red : x === 6 ? [0.78, 0.12, 0.1] : [0.1, 0.1, 0.9],
    )
    const image = {
      width,
      height: 1,
      channels: 3,
      bits: 8,
      float: false,
      values: Float32Array.from(texels.flat()),
    } as const
    const id = kind('material-id')
    expect([...broughtIn(id, image, { ...usualMeaning(id, scale), tolerance: 8 }, scale).planes[0]!]).toEqual([
      1, 1, 1, 1, 1, 1, 1, 2, 2, 2,
    ])
    expect(broughtIn(id, image, { ...usualMeaning(id, scale), tolerance: 0 }, scale).planes[0]![6]).toBe(3)
  })
})

test('an image is brought in by its range, and normals by the way of their green', () => {
  const image = {
    width: 2,
    height: 1,
    channels: 3,
    bits: 8,
    float: false,
    values: Float32Array.of(0, 0, 0, 1, 0.75, 0.5),
  } as const
  const grey = kind('thickness')
  expect([...broughtIn(grey, image, { ...usualMeaning(grey, scale), range: [2, 4] }, scale).planes[0]!]).toEqual([2, 4])
  const normal = kind('normal')
  const of = (flipY: boolean) =>
    broughtIn(normal, image, { ...usualMeaning(normal, scale), flipY }, scale).planes.map((plane) => plane[1]!)
  const length = Math.sqrt(1.25)
  of(false).forEach((v, k) => near(v, [1, 0.5, 0][k]! / length, 1e-6))
  of(true).forEach((v, k) => near(v, [1, -0.5, 0][k]! / length, 1e-6))
  const flat = { ...image, channels: 1, values: Float32Array.of(0, 1) } as const
  expect(() => broughtIn(normal, flat, usualMeaning(normal, scale), scale)).toThrow(
    'three channels, but the image has 1',
  )
})

test('the picture of mesh data, brought in as it is usually meant, is those data again; float images hold numbers', () => {
  const random = randomNumbers(8)
  const whole = { bits: 8, float: false, width: 16, height: 1 } as const
  for (const baker of bakers.filter(({ shown, type }) => shown && type !== 'id')) {
    const shown = (v: number, p: number) => baker.shown!(v, p, scale)
    const planes = baker.type === 'vector' ? 3 : 1
    const given = Array.from({ length: 16 * planes }, (_, i) => {
      const [zero, one] = [shown(0, i % planes), shown(1, i % planes)]
      // Any value that the picture can show.
      return (random() - zero) / (one - zero)
    })
    const values = Float32Array.from(given, (v, i) => Math.round(shown(v, i % planes) * 255) / 255)
    const meaning = usualMeaning(baker, scale)
    const image = { ...whole, channels: planes as 1 | 3, values }
    const field = broughtIn(baker, image, meaning, scale)
    const float = broughtIn(
      baker,
      { ...image, float: true, bits: 32, values: Float32Array.from(given) },
      meaning,
      scale,
    )
    given.forEach((v, i) => {
      const step = 1 / 255 / Math.abs(shown(1, i % planes) - shown(0, i % planes))
      near(field.planes[i % planes]![Math.floor(i / planes)]!, v, step * 0.51)
      if (baker.type === 'grey') expect(float.planes[0]![i]).toBe(Math.fround(v))
    })
  }
})

describe('a draft, whose rays come from some texels only', () => {
  const { rayStep } = QUALITIES.draft
  const corner = meshOf(ground(2, 'v -1 1 -1\nv 1 1 -1\nf 4/1 3/1 6/1 5/1'))
  const of = async (mesh: Mesh, name: string, rayStep: number) =>
    (await bake(mesh, name, { width: 64, options: { rays: 256, rayStep, reach: 1, thickest: 1 } })).planes[0]!

  test('is near to what it stands for, where it is smooth and beside a wall', async () => {
    const [all, few] = [await of(corner, 'occlusion', 1), await of(corner, 'occlusion', rayStep)]
    expect(few).not.toEqual(all)
    const square = all.reduce((sum, v, i) => sum + (v - few[i]!) ** 2, 0) / all.length
    expect(Math.sqrt(square)).toBeLessThan(0.03)
    expect(Math.min(...all)).toBeLessThan(0.7)
  })

  test('mixes nothing across an edge: a top in the sun and the side beside it keep their own light', async () => {
    const edge = meshOf(
      'o edge\nv -1 0 1\nv 0 0 1\nv 0 0 -1\nv -1 0 -1\nv 0 -2 1\nv 0 -2 -1\n' +
        'vt 0 0\nvt .5 0\nvt .5 1\nvt 0 1\nvt 1 0\nvt 1 1\nvt .5 0\nvt .5 1\nf 1/1 2/2 3/3 4/4\nf 2/7 5/5 6/6 3/8',
    )
    const flat = { ...edge, normals: flatNormals(edge) }
    const { planes } = await bake(flat, 'light', { width: 62, options: { rays: 64, rayStep, sunHeightTurns: 0.25 } })
    planes[0]!.forEach((v, i) => near(v, i % 62 < 31 ? 1 : 0.4 * 0.5, 0.06))
  })

  test('has the same bits whoever does which rows, in whatever order', async () => {
    const scene = traced(corner)
    const options = { ...standardOptions(corner), rays: 16, rayStep }
    const target = { width: 64, height: 64, left: 0, top: 0 }
    const baked = (threads?: BakeThreads) =>
      bakePart({
        ...{ mesh: corner, part: corner.parts[0]!, uvSet: 0, target, samples: 1, options, scene, high: null },
        ...{ bakers: [kind('occlusion')], padding: 0, threads },
      })
    const two: BakeThreads = {
      allocate: plainMemory,
      bakeMesh: async (job) => {
        const bakers = [0, 1].map(() => new RowsBaker(job, () => {}))
        for (let block = RowsBaker.blocksOf(job) - 1; block >= 0; block--) bakers[block % 2]!.bake(block)
        await Promise.resolve()
      },
    }
    expect((await baked(two)).fields).toEqual((await baked()).fields)
  })
})

describe('transfer', () => {
  const checks = 8
  const values = Float32Array.from({ length: 64 * 64 * 3 }, (_, i) => {
    const [x, y] = [Math.floor(i / 3) % 64, Math.floor(i / 3 / 64)]
    return (Math.floor(x / checks) + Math.floor(y / checks)) % 2
  })
  const texture = { width: 64, height: 64, values }

  test('a checker goes from one UV set of a part to another, as its coordinates say', async () => {
    const mesh = meshOf(ground(2))
    // In the second set the square lies turned by a quarter.
    const turned = Float32Array.from([1, 1, 1, 0, 0, 0, 0, 1])
    const two: Mesh = { ...mesh, uvSets: [mesh.uvSets[0]!, turned], parts: [{ ...mesh.parts[0]!, uvSets: 2 }] }
    const { planes } = await bake(two, 'transfer', { width: 64, texture, options: { transferFrom: 0, transferSet: 1 } })
    let wrong = 0
    for (let y = 0; y < 64; y++)
      for (let x = 0; x < 64; x++) {
        const [p, q] = [(x + 0.5) / 64, (y + 0.5) / 64]
        // Corners (0, 1) (1, 1) (1, 0) (0, 0) of the first set, v downward, lie at (1, 1) (1, 0) (0, 0) (0, 1) of the second.
        const [u, v] = [q, 1 - p]
        const expected = (Math.floor((u * 64) / checks) + Math.floor((v * 64) / checks)) % 2
        if (Math.abs(planes[0]![y * 64 + x]! - expected) > 1e-4) wrong++
      }
    expect(wrong).toBe(0)
  })

  test('from the high twin it comes by rays; where that is missed, or has no such UVs, it is told', async () => {
    const low = meshOf(ground(2))
    const twin = meshOf(ground(2).replaceAll(/^v (\S+) 0/gm, 'v $1 0.01'))
    const { planes, missed } = await bake(low, 'transfer', { width: 64, high: twin, texture })
    expect(missed).toBe(0)
    planes[0]!.forEach((v, i) => near(v, values[i * 3]!, 1e-3))
    await expect(bake(low, 'transfer', { high: twin, texture, options: { transferSet: 3 } })).rejects.toThrow(
      'no UV set 4',
    )
    await expect(bake(low, 'transfer', { high: twin })).rejects.toThrow('needs an image')
  })

  test('by the nearest place what rays miss is met too, up to the distance', async () => {
    const low = meshOf(ground(2))
    // Half a metre aside: rays of a quarter of the texels go past it.
    const aside = meshOf(ground(2).replaceAll(/^v (\S+) 0/gm, (_, x) => `v ${Number(x) + 0.5} 0.01`))
    const asked = { width: 64, high: aside, texture }
    const by = (transferBy: number, front: number) =>
      bake(low, 'transfer', { ...asked, options: { transferBy, front, back: 0.02 } })
    expect((await by(0, 0.6)).missed).toBe(64 * 16)
    const { planes, missed } = await by(1, 0.6)
    expect(missed).toBe(0)
    for (let y = 0; y < 64; y++)
      for (let x = 0; x < 64; x++)
        if (x !== 16) near(planes[0]![y * 64 + x]!, x < 16 ? planes[0]![y * 64]! : values[(y * 64 + x - 16) * 3]!, 1e-3)
    // 0.25 m and the height of 0.01 reach half of what was missed.
    expect((await by(1, 0.2505)).missed).toBe(64 * 8)
  })
})

test('vertex colours of a plane whose data are a ramp are that ramp, and a PLY keeps them', async () => {
  const grid = swept((s, t) => ({ place: [s, 0, t], normal: [0, 1, 0] }), 8, 8)
  const flipped = finishMesh({ ...grid, triangles: grid.triangles.slice().reverse() })
  const { fields } = await bakePart({
    mesh: flipped,
    part: flipped.parts[0]!,
    uvSet: 0,
    target: { width: 64, height: 64, left: 0, top: 0 },
    samples: 4,
    bakers: [kind('position')],
    options: standardOptions(flipped),
    scene: traced(flipped),
    high: null,
    padding: 4,
  })
  const baker = kind('position')
  const scale = { options: standardOptions(flipped), box: { min: [0, -1, 0], max: [1, 1, 1] } }
  const tiles = new Map([[1001, fields.get('position')!]])
  const made = vertexResult(flipped, 0, [{ part: flipped.parts[0]!, tiles, shown: shownBy(baker, scale) }])
  for (let v = 0; v < made.positions.length / 3; v++) {
    const inside = [0, 2].every((k) => made.positions[v * 3 + k]! > 0.1 && made.positions[v * 3 + k]! < 0.9)
    // At a border only one side of a vertex has data.
    const within = inside ? 0.004 : 0.05
    near(made.colours![v * 4]!, made.positions[v * 3]!, within)
    near(made.colours![v * 4 + 2]!, made.positions[v * 3 + 2]!, within)
    near(made.colours![v * 4 + 1]!, 0.5, 0.004)
  }
  const read = finishMesh(readPly(writePly(made)))
  expect([read.triangles.length, read.positions.length]).toEqual([made.triangles.length, made.positions.length])
  // Vertices may come in another order; corners do not.
  made.triangles.forEach((vertex, i) => {
    const other = read.triangles[i]!
    for (let k = 0; k < 3; k++) near(read.colours![other * 4 + k]!, made.colours![vertex * 4 + k]!, 0.01)
    for (let k = 0; k < 2; k++) near(read.uvSets[0]![other * 2 + k]!, made.uvSets[0]![vertex * 2 + k]!, 1e-6)
  })
})

test('a model without vertex colours is white', async () => {
  const { planes, covered } = await bake(meshOf(ground(1)), 'vertex-colour', { width: 8 })
  expect(covered.every((one) => one === 1)).toBe(true)
  for (const plane of planes) expect(plane.every((v) => v === 1)).toBe(true)
})

test('a mesh is kept as bytes and comes back as it was; other bytes are refused', () => {
  const mesh = ball(1, 8, 12)
  const bytes = packMesh(mesh)
  expect(unpackMesh(bytes)).toEqual(mesh)
  const shifted = new Uint8Array(bytes.length + 1)
  shifted.set(bytes, 1)
  expect(unpackMesh(shifted.subarray(1))).toEqual(mesh)
  for (const wrong of [bytes.slice(0, -4), bytes.slice(0, 3), new Uint8Array(64).fill(255)])
    expect(() => unpackMesh(wrong)).toThrow('not a mesh')
})
