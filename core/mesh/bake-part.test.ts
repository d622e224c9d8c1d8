import { generateTangents } from 'mikktspace'
import { randomNumbers } from '../testing/random-values'
import { RowsBaker } from './bake-rows'
import { standardOptions, bakePart, traced, twinOf } from './bake-part'
import { bakers } from './bakers/bakers.generated'
import type { Mesh } from './mesh'
import { nearestCovered } from './padding'
import { TileRaster, samplePattern } from './raster'
import { cornerTangents } from './tangents'
import { ball, bake, flatNormals, ground, meshOf } from './testing/bake-here'
import { PlainRaster } from './testing/plain-raster'
import { blockObj } from './testing/shapes'

describe('raster', () => {
  test('samples of a pattern lie in rows and columns of their own', () => {
    for (const count of [4, 16] as const) {
      const places = samplePattern(count)
      const columns = new Set(places.filter((_, i) => i % 2 === 0).map((v) => Math.floor(v * count)))
      expect(places).toHaveLength(count * 2)
      if (count === 4) expect(columns.size).toBe(4)
      expect(places.reduce((sum, v) => sum + v, 0) / (count * 2)).toBeCloseTo(0.5, 6)
    }
  })

  test('samples are those of the plain definition, to the bit', () => {
    const random = randomNumbers(11)
    for (const count of [1, 4, 16] as const)
      for (let run = 0; run < 12; run++) {
        // Small and large ones, over one another, beside the tile, on the borders of texels, without area.
        const size = run % 3 === 0 ? 0.05 : 0.9
        const corners = Float64Array.from({ length: 6 * 12 }, (_, i) => {
          const v = random() * size + (Math.floor(i / 6) / 12) * (1 - size) * 1.2 - 0.05
          return run % 2 ? v : Math.round(v * 48) / 48
        })
        corners.set(corners.subarray(0, 2), 2)
        const target = { width: 24, height: 24, left: 0, top: 0 }
        const [fast, plain] = [new TileRaster(corners, target, count), new PlainRaster(corners, target, count)]
        for (const [from, to] of [
          [0, 24],
          [5, 9],
        ] as const)
          expect(fast.between(from, to)).toEqual(plain.between(from, to))
      }
  })

  test('every texel that a triangle touches is sampled, others are not; the weights lead to the place', () => {
    const random = randomNumbers(3)
    for (let run = 0; run < 60; run++) {
      const corners = Float64Array.from({ length: 6 }, () => random())
      const { texels, weights } = new TileRaster(corners, { width: 16, height: 16, left: 0, top: 0 }, 4).between(0, 16)
      const found = new Set(texels)
      // Points all over the triangle lie in texels that were found.
      for (let i = 0; i < 400; i++) {
        let [b, c] = [random(), random()]
        if (b + c > 1) [b, c] = [1 - b, 1 - c]
        const at = (k: number) => corners[k]! * (1 - b - c) + corners[2 + k]! * b + corners[4 + k]! * c
        expect(found.has(Math.floor(at(1) * 16) * 16 + Math.floor(at(0) * 16))).toBe(true)
      }
      texels.forEach((texel, i) => {
        const [b, c] = [weights[i * 2]!, weights[i * 2 + 1]!]
        const [u, v] = [0, 1].map((k) => (corners[k]! * (1 - b - c) + corners[2 + k]! * b + corners[4 + k]! * c) * 16)
        // In the texel; where only a corner of it is touched, no farther from its middle than that.
        expect((u! - (texel % 16) - 0.5) ** 2 + (v! - Math.floor(texel / 16) - 0.5) ** 2).toBeLessThan(0.501)
      })
    }
  })
})

test('padding takes the very nearest covered texel, as far as it is told to', () => {
  const random = randomNumbers(8)
  const [width, height] = [23, 17]
  const covered = Uint8Array.from({ length: width * height }, () => (random() < 0.04 ? 1 : 0))
  const near = nearestCovered(covered, width, height)
  const some = nearestCovered(covered, width, height, 3)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let min = Infinity
      covered.forEach((one, i) => {
        if (one) min = Math.min(min, (x - (i % width)) ** 2 + (y - Math.floor(i / width)) ** 2)
      })
      const at = near[y * width + x]!
      expect((x - (at % width)) ** 2 + (y - Math.floor(at / width)) ** 2).toBe(min)
      // Within a reach the same texel is found by another way.
      expect(some[y * width + x]).toBe(min <= 9 ? at : -1)
    }
  expect(nearestCovered(new Uint8Array(12), 4, 3)).toEqual(new Int32Array(12).fill(-1))
})

test('tangents are those of the reference package', () => {
  const mesh = ball(1, 12, 20)
  const [part] = mesh.parts
  const spread = (values: Float32Array, each: number) =>
    Float32Array.from(
      { length: mesh.triangles.length * each },
      (_, i) => values[mesh.triangles[Math.floor(i / each)]! * each + (i % each)]!,
    )
  const reference = generateTangents(spread(mesh.positions, 3), spread(mesh.normals, 3), spread(mesh.uvSets[0]!, 2))
  const ours = cornerTangents(mesh, part!, mesh.uvSets[0]!)
  for (let i = 0; i < reference.length; i++)
    expect(Math.abs(ours[i]! - (i % 4 === 3 ? -reference[i]! : reference[i]!))).toBeLessThan(1e-6)
})

describe('mesh data against what is known', () => {
  test('a normal baked from itself is (0, 0, 1) within 1/255, over the seam of a ball too', async () => {
    const { planes, covered } = await bake(ball(1), 'normal', { width: 128, height: 64 })
    planes[0]!.forEach((x, i) => {
      if (!covered[i]) return
      expect(Math.abs(x) < 2 / 255 && Math.abs(planes[1]![i]!) < 2 / 255 && planes[2]![i]! > 0.99).toBe(true)
    })
  })

  test('a high twin that is tilted by 30° about z gives x = −sin 30°; up is green', async () => {
    const low = meshOf(ground(2))
    // The ground's u runs along x, its v (upward) along −z.
    const tilted = (axis: 'x' | 'z'): Mesh => {
      const mesh = meshOf(ground(2))
      const normals = new Float32Array(12)
      for (let v = 0; v < 4; v++)
        normals.set(axis === 'z' ? [-0.5, Math.sqrt(0.75), 0] : [0, Math.sqrt(0.75), -0.5], v * 3)
      return { ...mesh, normals }
    }
    const sideways = await bake(low, 'normal', { high: tilted('z') })
    expect(sideways.planes.map((plane) => plane[500]!.toFixed(4))).toEqual(['-0.5000', '0.0000', '0.8660'])
    const up = await bake(low, 'normal', { high: tilted('x') })
    expect(up.planes.map((plane) => Number(plane[500]!.toFixed(4)) + 0)).toEqual([0, 0.5, 0.866])
  })

  test('height is how far the twin lies outside; where it is not, that is told and filled', async () => {
    const low = meshOf(ground(2))
    // Over the left half only, 0.01 m up.
    const twin = meshOf('v -1 0.01 1\nv 0 0.01 1\nv 0 0.01 -1\nv -1 0.01 -1\nf 1 2 3 4\n')
    const { planes, missed, width } = await bake(low, 'height', { high: twin, padding: 99 })
    expect(missed).toBe((width * width) / 2)
    expect(planes[0]!.every((v) => Math.abs(v - 0.01) < 1e-5)).toBe(true)
    await expect(bake(low, 'height')).rejects.toThrow('made of a high twin')
  })

  // A wall far higher and longer than the rays reach: its foot sees half (MESH.md).
  test('the foot of a wall is half open, and far from it all is', async () => {
    const wall = 'o wall\nv 0 0 -50\nv 0 0 50\nv 0 99 0\nf 5 6 7\n'
    const mesh = meshOf(ground(2, wall))
    const { planes, width } = await bake(mesh, 'occlusion', { width: 128, options: { rays: 1024, reach: 0.5 } })
    const row = 64 * width
    expect(Math.abs(planes[0]![row + 64]! - 0.5)).toBeLessThan(0.02)
    expect(planes[0]![row + 1]).toBe(1)
    // Mirrored: what lies as far on both sides is as open.
    expect(Math.abs(planes[0]![row + 70]! - planes[0]![row + 57]!)).toBeLessThan(0.02)
  })

  test('inside a closed box all is dark; outside all is light', async () => {
    const turned = blockObj(1, 1, 1).replace(/^f (\S+) (\S+) (\S+) (\S+)$/gm, 'f $4 $3 $2 $1')
    const flat = (obj: string) => {
      const mesh = meshOf(obj)
      return { ...mesh, normals: flatNormals(mesh) }
    }
    const inside = await bake(flat(turned), 'occlusion', { width: 16, options: { reach: 9 } })
    expect(Math.max(...inside.planes[0]!)).toBeLessThan(0.02)
    const outside = await bake(flat(blockObj(1, 1, 1)), 'occlusion', { width: 16, options: { reach: 9 } })
    expect(Math.min(...outside.planes[0]!)).toBe(1)
  })

  test.each([0.5, 2])('a ball of radius %d has curvature 1/r, a hollow one −1/r, a plane none', async (radius) => {
    const asked = { width: 64, height: 32, options: { radius: radius / 10 } }
    const out = await bake(ball(radius), 'curvature', asked)
    // Away from the poles, where the triangles are slivers.
    const middle = out.planes[0]!.subarray(64 * 8, 64 * 24)
    middle.forEach((v) => expect(Math.abs(v * radius - 1)).toBeLessThan(0.02))
    const mesh = ball(radius)
    const hollow = { ...mesh, normals: mesh.normals.map((v) => -v), triangles: mesh.triangles.slice().reverse() }
    const inward = await bake(hollow, 'curvature', asked)
    inward.planes[0]!.subarray(64 * 8, 64 * 24).forEach((v) => expect(Math.abs(v * radius + 1)).toBeLessThan(0.02))
    const plane = await bake(meshOf(ground(2)), 'curvature', { options: { radius: 0.1 } })
    expect(Math.max(...plane.planes[0]!.map(Math.abs))).toBeLessThan(1e-6)
  })

  test('thickness of a slab is its thickness over the cosine, averaged over the cone', async () => {
    const slab = meshOf(ground(40, 'o under\nv -20 -0.2 20\nv 20 -0.2 20\nv 20 -0.2 -20\nv -20 -0.2 -20\nf 8 7 6 5\n'))
    const { planes } = await bake(slab, 'thickness', {
      width: 8,
      options: { rays: 4096, coneTurns: 1 / 6, thickest: 9 },
    })
    // Cosine-weighted mean of d / cos over a cone of 60°: 2d(1 − cos 60°)/sin² 60° = 4d/3.
    expect(Math.abs(planes[0]![36]! - (0.2 * 4) / 3)).toBeLessThan(0.003)
  })

  test('position is in metres, object normals face outward, parts have their numbers', async () => {
    const mesh = ball(2)
    const place = await bake(mesh, 'position', { width: 32, height: 16, samples: 4 })
    const facing = await bake(mesh, 'object-normal', { width: 32, height: 16, samples: 4 })
    for (let i = 64; i < 448; i++) {
      const at = place.planes.map((plane) => plane[i]!)
      expect(Math.sqrt(at.reduce((sum, v) => sum + v * v, 0))).toBeCloseTo(2, 1)
      facing.planes.forEach((plane, k) => expect(Math.abs(plane[i]! - at[k]! / 2)).toBeLessThan(0.03))
    }
    const two = meshOf(ground(2, 'o lid\nv -1 1 1\nv 1 1 1\nv 1 1 -1\nvt 0 0\nvt 0.5 0\nvt 0.5 0.5\nf 5/5 6/6 7/7\n'))
    const ids = await bake(two, 'part-id', { part: 1, samples: 16 })
    expect(new Set(ids.planes[0])).toEqual(new Set([0, 2]))
  })
})

test('edges of a block bulge, the corner of a floor and a wall is hollow, flat sides are neither', async () => {
  const flat = (obj: string) => {
    const mesh = meshOf(obj)
    return { ...mesh, normals: flatNormals(mesh) }
  }
  // Only the front has UVs; every side has its own normals.
  const normals = ['0 0 1', '0 0 -1', '1 0 0', '-1 0 0', '0 1 0', '0 -1 0']
  let side = 0
  const sides = blockObj(1, 1, 1).replaceAll(/^f (.*)$/gm, (_, face: string) => {
    side++
    return `f ${face.replaceAll(/(\d)\/(\d)/g, (_, v: string, vt: string) => `${v}/${side === 1 ? vt : ''}/${side}`)}`
  })
  const cube = meshOf(`${normals.map((n) => `vn ${n}`).join('\n')}\n${sides}`)
  const one = await bake(cube, 'rounded-edge', { width: 64, options: { radius: 0.1 } })
  const middle = 32 * 64
  expect(one.planes[0]![middle + 32]).toBe(0)
  expect(one.planes[0]![middle]!).toBeGreaterThan(0.2)
  const wall = 'o wall\nv 0 0 -50\nv 0 0 50\nv 0 99 0\nf 7 6 5\n'
  const corner = await bake(flat(ground(2, wall)), 'rounded-edge', { width: 64, options: { radius: 0.2 } })
  expect(corner.planes[0]![middle + 33]!).toBeLessThan(-0.1)
  expect(corner.planes[0]![middle + 60]).toBe(0)
})

test('islands, materials and vertex colours are those of the file', async () => {
  const two = meshOf(
    'o a\nusemtl iron\nv 0 0 0 1 0 0\nv 1 0 0 0 1 0\nv 0 1 0 0 0 1\nvt 0 0\nvt 1 0\nvt 0 1\nf 1/1 2/2 3/3\n',
  )
  const [red, green, blue] = (await bake(two, 'vertex-colour', { width: 64 })).planes
  // A known ramp: red falls along u and v from their corner.
  const at = (x: number, y: number) => (63 - y) * 64 + x
  for (const [x, y] of [
    [10, 10],
    [30, 20],
    [5, 50],
  ] as const) {
    const [u, v] = [(x + 0.5) / 64, (y + 0.5) / 64]
    expect([red, green, blue].map((plane) => plane![at(x, y)]!.toFixed(4))).toEqual(
      [1 - u - v, u, v].map((w) => w.toFixed(4)),
    )
  }
  expect(new Set((await bake(two, 'material-id')).planes[0])).toEqual(new Set([0, 1]))
  const block = meshOf(blockObj(1, 1, 1))
  expect(new Set((await bake(block, 'island-id', { padding: 9 })).planes[0])).toEqual(new Set([1]))
})

test('kinds that are made together have the bits of each made alone, whatever lay in the memory before', async () => {
  const mesh = ball(1, 16, 32)
  // A twin of the upper half: what is made of it is missing below, what is made of the part is not.
  const half = { ...mesh, triangles: mesh.triangles.slice(0, mesh.triangles.length / 2) }
  const high: Mesh = { ...half, parts: [{ ...mesh.parts[0]!, count: half.triangles.length / 3 }] }
  const names = ['part-id', 'height', 'position', 'normal', 'curvature', 'island-id', 'object-normal'] as const
  const chosen = names.map((name) => bakers.find((one) => one.name === name)!)
  const scene = traced(high)
  const made = (some: typeof chosen, before: number) =>
    bakePart({
      ...{ mesh, part: mesh.parts[0]!, uvSet: 0, bakers: some, scene, high: scene, padding: 3, samples: 1 },
      target: { width: 40, height: 40, left: 0, top: 0 },
      options: { ...standardOptions(mesh), rays: 4 },
      threads: {
        allocate: (bytes) => new Uint8Array(bytes).fill(before),
        bakeMesh: async (job) => {
          const baker = new RowsBaker(job, () => {})
          job.results.forEach(({ missed }) => missed.fill(0))
          for (let block = 0; block < RowsBaker.blocksOf(job); block++) baker.bake(block)
        },
      },
    })
  const together = await made(chosen, 77)
  for (const baker of chosen) {
    const alone = await made([baker], 0)
    expect(together.fields.get(baker.name)!.planes).toEqual(alone.fields.get(baker.name)!.planes)
    expect(together.missed[baker.name]).toBe(alone.missed[baker.name])
    expect(together.missedAt.get(baker.name)).toEqual(alone.missedAt.get(baker.name))
    const isOfPart = baker.reads === 'part'
    expect(together.missed[baker.name]! > 100).toBe(!isOfPart)
  }
  expect(together.covered).toEqual((await made(chosen, 0)).covered)
})

test('twins are matched by name; where none has it, all of the high model counts', () => {
  const high = meshOf('o rim_high\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\no spoke_high\nf 3 2 1\n')
  const part = { name: 'Spoke low', material: null, from: 0, count: 1, uvSets: 1 }
  const twin = twinOf(high, part)
  expect([...twin.triangles].map((v) => high.positions[v * 3 + 1])).toEqual([1, 0, 0])
  expect(twin.parts).toHaveLength(1)
  expect(twinOf(high, { ...part, name: 'hub' })).toBe(high)
})

test('each kind can be cancelled, refuses a part without UVs, and tells where nothing lies in the tile', async () => {
  const mesh = meshOf(ground(2))
  const request = {
    mesh,
    part: mesh.parts[0]!,
    uvSet: 0,
    target: { width: 16, height: 16, left: 0, top: 0 },
    samples: 1 as const,
    bakers: bakers.filter(({ needsHigh, needsTexture }) => !needsHigh && !needsTexture),
    options: standardOptions(mesh),
    scene: traced(mesh),
    high: null,
    padding: 0,
  }
  await expect(bakePart({ ...request, isCancelled: () => true })).rejects.toMatchObject({ code: 'cancelled' })
  await expect(bakePart({ ...request, uvSet: 3 })).rejects.toThrow('Unwrap it first')
  await expect(bakePart({ ...request, target: { ...request.target, left: 5 } })).rejects.toThrow('None of it lies')
  expect((await bakePart(request)).fields.size).toBe(request.bakers.length)
})
