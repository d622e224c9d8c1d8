import { BufferAttribute, BufferGeometry, DoubleSide, Ray, Vector3 } from 'three'
import { MeshBVH } from 'three-mesh-bvh'
import { randomNumbers } from '../testing/random-values'
import type { Solid } from '../testing/solids'
import { soup, sphere } from '../testing/solids'
import {
  anyHits,
  aroundOf,
  buildRayTree,
  climbOf,
  closestHits,
  coneDirections,
  nearestPlaces,
  opennessOf,
  skylightOf,
  thicknessOf,
} from './ray-tree'

/** Rays of any origin and direction about the unit cube. */
function randomRays(count: number, random: () => number, far = 10): Float32Array {
  const rays = new Float32Array(count * 7)
  for (let i = 0; i < count; i++) {
    const at = i * 7
    for (let k = 0; k < 3; k++) rays[at + k] = random() * 2 - 0.5
    const aim = [random(), random(), random()]
    const d = aim.map((v, k) => v - rays[at + k]!)
    const length = Math.sqrt(d.reduce((sum, v) => sum + v * v, 0))
    d.forEach((v, k) => (rays[at + 3 + k] = v / length))
    rays[at + 6] = far
  }
  return rays
}

function packageTree({ positions, triangles }: Solid): MeshBVH {
  const geometry = new BufferGeometry()
  geometry.setAttribute('position', new BufferAttribute(positions.slice(), 3))
  geometry.setIndex(new BufferAttribute(triangles.slice(), 1))
  return new MeshBVH(geometry)
}

test.each([
  ['1 triangle', soup(1, 0.9, randomNumbers(1))],
  ['5 triangles', soup(5, 0.9, randomNumbers(2))],
  ['4000 triangles', soup(4000, 0.08, randomNumbers(3))],
  ['a sphere of 4900', sphere(0.5, 50, 50)],
  [
    '200 in one place',
    { ...soup(1, 0.9, randomNumbers(1)), triangles: Uint32Array.from({ length: 600 }, (_, i) => i % 3) },
  ],
])('%s: rays meet what they meet by three-mesh-bvh', (_, solid) => {
  const tree = buildRayTree(solid.positions, solid.triangles)
  const reference = packageTree(solid)
  const rays = randomRays(3000, randomNumbers(9))
  const { distances, triangles, weights } = closestHits(tree, rays)
  const any = anyHits(tree, rays)
  let [hits, apart] = [0, 0]
  for (let i = 0; i < 3000; i++) {
    const [origin, direction] = [0, 3].map((k) => new Vector3(...rays.subarray(i * 7 + k, i * 7 + k + 3)))
    const hit = reference.raycastFirst(new Ray(origin, direction), DoubleSide)
    expect(any[i] === 1).toBe(distances[i]! >= 0)
    if ((hit !== null) !== distances[i]! >= 0) {
      // A ray through an edge may go either way.
      apart++
      continue
    }
    if (!hit) continue
    hits++
    expect(Math.abs(hit.distance - distances[i]!)).toBeLessThan(2e-4)
    // Weights lead to the place that was met.
    const [b, c] = [weights[i * 2]!, weights[i * 2 + 1]!]
    const corner = (k: number, axis: number) => solid.positions[solid.triangles[triangles[i]! * 3 + k]! * 3 + axis]!
    for (let axis = 0; axis < 3; axis++) {
      const place = corner(0, axis) * (1 - b - c) + corner(1, axis) * b + corner(2, axis) * c
      expect(Math.abs(place - (rays[i * 7 + axis]! + rays[i * 7 + 3 + axis]! * distances[i]!))).toBeLessThan(1e-4)
    }
  }
  expect(hits).toBeGreaterThan(10)
  expect(apart).toBeLessThan(4)
})

test.each([
  ['4000 triangles', soup(4000, 0.08, randomNumbers(3))],
  ['a sphere of 4900', sphere(0.5, 50, 50)],
  ['triangles without area', { ...soup(40, 0.5, randomNumbers(4)), triangles: new Uint32Array([0, 1, 2, 3, 3, 4]) }],
])('%s: the nearest places are those of three-mesh-bvh', (_, solid) => {
  const tree = buildRayTree(solid.positions, solid.triangles)
  const reference = packageTree(solid)
  const random = randomNumbers(5)
  const places = Float32Array.from({ length: 2000 * 6 }, () => random() * 2 - 0.5)
  const { heights, triangles, weights } = nearestPlaces(tree, { places }, 0.4)
  let beyond = 0
  for (let i = 0; i < 2000; i++) {
    const at = new Vector3(...places.subarray(i * 6, i * 6 + 3))
    const { distance } = reference.closestPointToPoint(at)!
    if (Number.isNaN(heights[i]!)) {
      beyond++
      expect(distance).toBeGreaterThan(0.4 - 1e-5)
      continue
    }
    expect(Math.abs(heights[i]! - distance)).toBeLessThan(2e-5)
    const [b, c] = [weights[i * 2]!, weights[i * 2 + 1]!]
    expect(b >= 0 && c >= 0 && b + c <= 1 + 1e-6).toBe(true)
    const place = [0, 1, 2].map((axis) => {
      const corner = (k: number) => solid.positions[solid.triangles[triangles[i]! * 3 + k]! * 3 + axis]!
      return corner(0) * (1 - b - c) + corner(1) * b + corner(2) * c
    })
    expect(Math.abs(at.distanceTo(new Vector3(...place)) - distance)).toBeLessThan(2e-5)
  }
  expect(beyond).toBeLessThan(1900)
})

test('rays end where they are told to', () => {
  const plane = { positions: new Float32Array([-9, 0, -9, 9, 0, -9, 0, 0, 9]), triangles: new Uint32Array([0, 1, 2]) }
  const tree = buildRayTree(plane.positions, plane.triangles)
  const down = (far: number) => [0, 1, 0, 0, -1, 0, far]
  expect([...anyHits(tree, new Float32Array([...down(0.99), ...down(1.01)]))]).toEqual([0, 1])
  expect([...closestHits(tree, new Float32Array([...down(0.99), ...down(1.01)])).distances]).toEqual([-1, 1])
  // Along the plane, in it, and from behind.
  expect([...anyHits(tree, new Float32Array([-8, 0.1, 0, 1, 0, 0, 99, 0, -1, 0, 0, 1, 0, 9]))]).toEqual([0, 1])
})

describe('openness against what is known', () => {
  /** A floor and a wall at x = 0, both far larger than the rays are long. */
  const corner: Solid = {
    positions: new Float32Array([-50, 0, -50, 50, 0, -50, 0, 0, 99, 0, -50, -50, 0, -50, 50, 0, 99, 0]),
    triangles: new Uint32Array([0, 1, 2, 3, 4, 5]),
  }
  const fan = (rays: number) => ({ directions: coneDirections(rays), groups: 1, bias: 1e-4, most: 40, fade: 0 })

  test('the directions are cosine-weighted: their mean is 2/3 of the normal', () => {
    const directions = coneDirections(4096)
    const mean = [0, 1, 2].map((k) => directions.filter((_, i) => i % 3 === k).reduce((sum, v) => sum + v, 0) / 4096)
    expect(mean.map((v) => Math.abs(v) < 2e-3)).toEqual([true, true, false])
    expect(mean[2]).toBeCloseTo(2 / 3, 3)
  })

  // The foot of an endless wall sees half of the cosine-weighted hemisphere (MESH.md; also by symmetry).
  test('the foot of a wall is half open, and bent away from it by 45° of the half that is left', () => {
    const tree = buildRayTree(corner.positions, corner.triangles)
    const [open, x, y] = opennessOf(tree, { places: new Float32Array([0.001, 0, 0, 0, 1, 0]) }, fan(4096))
    expect(Math.abs(open! - 0.5)).toBeLessThan(0.01)
    // Mean over the half: x by 4/(3π) of the radius, y by 2/3.
    expect(Math.abs(x! / y! - 4 / (3 * Math.PI) / (2 / 3))).toBeLessThan(0.02)
  })

  test('on the outside of a ball all is open, inside it nothing is', () => {
    const { positions, triangles } = sphere(1, 64, 64)
    const tree = buildRayTree(positions, triangles)
    const at = (radius: number, sign: number) => [radius * 0.6, radius * 0.8, 0, 0.6 * sign, 0.8 * sign, 0]
    const both = opennessOf(tree, { places: new Float32Array([...at(1.001, 1), ...at(0.98, -1)]) }, fan(1024))
    expect([both[0], both[5]]).toEqual([1, 0])
    // Over the whole inner half space of a ball the mean chord, cosine-weighted, is 4/3 of the radius.
    const thick = thicknessOf(
      tree,
      { places: new Float32Array(at(0.998, 1)) },
      {
        directions: coneDirections(4096),
        groups: 1,
        bias: 1e-4,
        most: 9,
      },
    )
    expect(Math.abs(thick[0]! - 4 / 3)).toBeLessThan(0.01)
  })

  test('with a fade over all of the reach, a wall half-way hides half', () => {
    const wall = {
      positions: new Float32Array([-99, 1, -99, 99, 1, -99, 0, 1, 99]),
      triangles: new Uint32Array([0, 1, 2]),
    }
    const tree = buildRayTree(wall.positions, wall.triangles)
    const straight = { directions: new Float32Array([0, 0, 1]), groups: 1, bias: 0, most: 2, fade: 1 }
    const [open] = opennessOf(tree, { places: new Float32Array([0, 0, 0, 0, 1, 0]) }, straight)
    expect(open).toBeCloseTo(0.5, 6)
  })

  test('the sky that samples see is that of their openness, to the bit, with a fade too', () => {
    const solid = soup(800, 0.2, randomNumbers(11))
    const tree = buildRayTree(solid.positions, solid.triangles)
    const random = randomNumbers(12)
    const places = new Float32Array(900 * 6)
    for (let i = 0; i < 900; i++) {
      const axis = new Vector3(random() - 0.5, random() - 0.5, random() - 0.5).normalize()
      places.set([random(), random(), random(), ...axis.toArray()], i * 6)
    }
    const rays = { ...fan(24), most: 0.4, bias: 1e-3 }
    const sky = skylightOf(tree, { places }, rays)
    expect(new Set(sky).size).toBeGreaterThan(10)
    for (const fade of [0, 0.6])
      expect(opennessOf(tree, { places }, { ...rays, fade }).filter((_, i) => i % 5 === 4)).toEqual(sky)
  })

  test('a sample has the same bits in whatever batch it comes', () => {
    const solid = soup(500, 0.2, randomNumbers(4))
    const tree = buildRayTree(solid.positions, solid.triangles)
    const samples = Float32Array.from(
      { length: 3000 * 6 },
      ((random) => (_, i) => (i % 6 === 4 ? 1 : i % 6 > 2 ? 0 : random()))(randomNumbers(5)),
    )
    const whole = opennessOf(tree, { places: samples }, { ...fan(16), most: 0.5, bias: 1e-4 })
    const part = opennessOf(
      tree,
      { places: samples.subarray(1500 * 6), firstNumber: 1500 },
      { ...fan(16), most: 0.5, bias: 1e-4 },
    )
    expect(whole.subarray(1500 * 5)).toEqual(part)
  })
})

test.each([
  ['4000 triangles', soup(4000, 0.08, randomNumbers(3))],
  ['a sphere of 4900', sphere(0.5, 50, 50)],
])('%s: what samples share leaves nothing out that their rays meet', (_, { positions, triangles }) => {
  const COUNT = 4000
  const [bias, most] = [1e-3, 0.6]
  const tree = buildRayTree(positions, triangles)
  const random = randomNumbers(6)
  const places = new Float32Array(COUNT * 6)
  for (let i = 0; i < COUNT; i++) {
    // Those that share begin close together and look nearly the same way; of every third lot anywhere, and anyhow.
    const lot = (i >> 4) * 16
    const shift = (lot / 16) % 3 === 0 ? 1 : 0.01
    if (i === lot) {
      const vertex = Math.floor((random() * positions.length) / 3) * 3
      for (let k = 0; k < 6; k++) places[i * 6 + k] = k < 3 ? positions[vertex + k]! : random() - 0.5
    }
    const jitter = (k: number) => places[lot * 6 + k]! + (i === lot ? 0 : shift * (random() - 0.5))
    const normal = new Vector3(jitter(3), jitter(4), jitter(5)).normalize()
    places.set([jitter(0), jitter(1), jitter(2), ...normal.toArray()], i * 6)
  }
  // One ray a sample: the sum of the open ones tells where it goes.
  const directions = coneDirections(7)
  const found = opennessOf(tree, { places }, { directions, groups: 7, bias, most, fade: 0 })
  const faded = opennessOf(tree, { places }, { directions, groups: 7, bias, most, fade: 1 })
  const rays = new Float32Array(COUNT * 7)
  for (let i = 0; i < COUNT; i++) {
    for (let k = 0; k < 3; k++) {
      rays[i * 7 + k] = places[i * 6 + k]! + Math.fround(places[i * 6 + 3 + k]! * Math.fround(bias))
      // Where it is not open, the faded one tells it: as long as the way to what it met is a share of all.
      const share = found[i * 5] === 1 ? 1 : faded[i * 5]!
      rays[i * 7 + 3 + k] = (found[i * 5] === 1 ? found : faded)[i * 5 + 1 + k]! / share
    }
    rays[i * 7 + 6] = most
  }
  const met = anyHits(tree, rays)
  const { distances } = closestHits(tree, rays)
  let [open, other, apart] = [0, 0, 0]
  for (let i = 0; i < COUNT; i++) {
    if (found[i * 5] === 1) {
      open++
      expect(met[i]).toBe(0)
      expect(faded[i * 5]).toBe(1)
    } else {
      other++
      // Directions are told a little less exactly here.
      if (Math.abs(faded[i * 5]! - distances[i]! / most) > 1e-4) apart++
    }
  }
  expect(open).toBeGreaterThan(400)
  expect(other).toBeGreaterThan(400)
  expect(apart).toBeLessThan(4)
})

/** A floor of n × n squares at height 0, two triangles each: all numbers are whole, so that rays through its edges are told exactly. */
function floorOf(n: number): Solid {
  const positions = Float32Array.from({ length: (n + 1) ** 2 * 3 }, (_, i) => {
    const vertex = Math.floor(i / 3)
    return i % 3 === 0 ? vertex % (n + 1) : i % 3 === 1 ? 0 : Math.floor(vertex / (n + 1))
  })
  const triangles = new Uint32Array(n * n * 6)
  for (let i = 0; i < n * n; i++) {
    const a = (i % n) + Math.floor(i / n) * (n + 1)
    triangles.set([a, a + n + 1, a + n + 2, a, a + n + 2, a + 1], i * 6)
  }
  return { positions, triangles }
}

/** Numbers by threes (of sevens: the first six) with x, y, z moved on by so many places. */
const turned = (numbers: Float32Array, by: number, each: 3 | 7): Float32Array =>
  numbers.map((v, i) => {
    const k = i % each
    return k === 6 ? v : numbers[i - k + (k < 3 ? 0 : 3) + ((k + by) % 3)]!
  })

describe.each([0, 1, 2])('rays through corners and along the bounds of boxes, axes moved on by %i', (by) => {
  const N = 12
  const { positions, triangles: faces } = floorOf(N)
  const floor = { positions: turned(positions, by, 3), triangles: faces }
  const tree = buildRayTree(floor.positions, floor.triangles)
  // Straight down onto each corner; what is 0 of a direction is so with either sign.
  const down = Array.from({ length: (N + 1) ** 2 }, (_, i) => {
    const [x, z] = [i % (N + 1), Math.floor(i / (N + 1))]
    return [x, 3, z, i % 2 ? 0 : -0, -1, i % 3 ? 0 : -0, 9]
  })
  const rays = turned(new Float32Array(down.flat()), by, 7)

  test('all meet the floor, that at its rim too', () => {
    expect([...closestHits(tree, rays).distances]).toEqual(Array.from({ length: (N + 1) ** 2 }, () => 3))
    expect(anyHits(tree, rays).every((met) => met === 1)).toBe(true)
  })

  test('of all triangles about a corner the first counts, alone or among others, in whatever order', () => {
    const { triangles, weights } = closestHits(tree, rays)
    for (let i = 0; i < triangles.length; i++) expect(triangles[i]).toBe(Math.floor(floor.triangles.indexOf(i) / 3))
    const count = triangles.length
    // 40 is no multiple of 169: each ray comes once.
    const order = Array.from({ length: count }, (_, i) => (i * 40) % count)
    const mixed = closestHits(tree, new Float32Array(order.flatMap((i) => [...rays.subarray(i * 7, i * 7 + 7)])))
    expect([...mixed.triangles]).toEqual(order.map((i) => triangles[i]))
    order.forEach((i, k) => expect(mixed.weights.slice(k * 2, k * 2 + 2)).toEqual(weights.slice(i * 2, i * 2 + 2)))
    for (let i = 0; i < count; i += 7)
      expect(closestHits(tree, rays.subarray(i * 7, i * 7 + 7)).triangles[0]).toBe(triangles[i])
  })

  test('those in the plane of the floor, and beside it, meet nothing', () => {
    const beside = new Float32Array([-1, 0, 4, 1, 0, 0, 99, 12.5, 3, 4, 0, -1, 0, 9, 4, 3, -0.5, 0, -1, 0, 9])
    expect([...anyHits(tree, turned(beside, by, 7))]).toEqual([0, 0, 0])
  })
})

describe('rays that go together are as if each went alone', () => {
  const { positions, triangles } = sphere(0.5, 30, 30)
  const tree = buildRayTree(positions, triangles)
  const SAMPLES = 37
  const places = new Float32Array(SAMPLES * 6)
  const random = randomNumbers(21)
  for (let i = 0; i < SAMPLES; i++) {
    const vertex = (300 + i) * 3
    const normal = new Vector3(...positions.subarray(vertex, vertex + 3)).normalize()
    normal.add(new Vector3(random() - 0.5, random() - 0.5, random() - 0.5).multiplyScalar(0.6)).normalize()
    places.set([...positions.subarray(vertex, vertex + 3), ...normal.toArray()], i * 6)
  }
  const solid = soup(300, 0.3, randomNumbers(22))
  const clutter = buildRayTree(solid.positions, solid.triangles)

  test.each([1, 5, 16, 33, 100])('%i rays a sample: sums are those of one ray each, to the bit', (rays) => {
    const directions = coneDirections(rays)
    const way = { groups: 1, bias: 1e-3, most: 0.7 }
    const single = Array.from({ length: rays }, (_, k) => ({ ...way, directions: directions.slice(k * 3, k * 3 + 3) }))
    const sumOf = (each: readonly Float32Array[], at: number) =>
      each.reduce((sum, one) => Math.fround(sum + one[at]!), 0)
    for (const fade of [0, 0.7]) {
      const open = opennessOf(clutter, { places }, { ...way, directions, fade })
      const each = single.map((one) => opennessOf(clutter, { places }, { ...one, fade }))
      for (let i = 0; i < open.length; i++) {
        const sum = sumOf(each, i)
        expect(open[i]).toBe(i % 5 === 0 || i % 5 === 4 ? Math.fround(sum / rays) : sum)
      }
    }
    const thick = thicknessOf(tree, { places }, { ...way, directions })
    const each = single.map((one) => thicknessOf(tree, { places }, one))
    expect([...thick]).toEqual(Array.from(thick, (_, i) => Math.fround(sumOf(each, i) / rays)))
    expect(new Set(thick).size).toBeGreaterThan(5)
  })

  test('what samples find around them, and how far up they come, is the same alone', () => {
    const normals = Float32Array.from(positions, (v) => v * 2)
    const mesh = { triangles, normals }
    const table = new Float32Array(
      Array.from({ length: 11 }, (_, k) => [Math.cos(k) / 2, Math.sin(k) / 2, 1, 0, 0, -1, 2]).flat(),
    )
    const climb = { steps: 9, step: 0.05, bias: 1e-3, level: 0.7 }
    const rays = { table, down: 11, side: 4, groups: 3, radius: 0.1 }
    const around = aroundOf(tree, mesh, { places }, rays)
    const climbed = climbOf(tree, mesh, { places }, climb)
    for (let i = 0; i < SAMPLES; i++) {
      const own = { places: places.subarray(i * 6, i * 6 + 6), firstNumber: i }
      expect(aroundOf(tree, mesh, own, rays)).toEqual(around.slice(i * 4, i * 4 + 4))
      expect(climbOf(tree, mesh, own, climb)[0]).toBe(climbed[i])
    }
    expect(new Set(climbed).size).toBeGreaterThan(5)
    // Up the ball from the place itself: as far as to where it is level enough, and a step more at most.
    const upright = { places: new Float32Array(SAMPLES * 6) }
    for (let i = 0; i < SAMPLES; i++) {
      const place = places.subarray(i * 6, i * 6 + 3)
      upright.places.set([...place, ...place.map((v) => v * 2)], i * 6)
    }
    const far = climbOf(tree, mesh, upright, { ...climb, steps: 99, step: 0.01 })
    for (let i = 0; i < SAMPLES; i++) {
      const arc = (Math.acos(upright.places[i * 6 + 4]!) - Math.acos(0.7)) / 2
      if (arc > 0) expect(Math.abs(far[i]! - arc - 0.005)).toBeLessThan(0.01)
    }
    // A ball bends by one over its radius; its triangles are flat, and some samples look askew.
    expect(Math.abs(around[4 * 18]! - 2)).toBeLessThan(0.3)
  })
})
