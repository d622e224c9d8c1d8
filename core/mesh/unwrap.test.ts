import { validateBytes } from 'gltf-validator'
import * as watlas from 'watlas'
import { sphere } from '../testing/solids'
import { readObj } from './formats/obj'
import { layoutOf } from './layout'
import { layoutFacts } from './layout-facts'
import type { Mesh } from './mesh'
import { finishMesh } from './mesh'
import { readMesh } from './read-mesh'
import { areaOf, blockObj, volumeOf } from './testing/shapes'
import type { ChartAtlas } from './unwrap'
import { shiftOverlapping } from './shift-islands'
import { repack, unwrap } from './unwrap'
import { writeGlb } from './write-glb'

await watlas.Initialize()
const newAtlas = () => new (watlas.Atlas as unknown as new () => ChartAtlas)()
const block = finishMesh(readObj(blockObj(2, 3, 5)))
const ball = (): Mesh => {
  const { positions, triangles } = sphere(1, 16, 24)
  const parts = [{ name: 'ball', material: 'clay', from: 0, count: triangles.length / 3, uvSets: 0 }]
  return finishMesh({ positions, normals: positions.slice(), uvSets: [], colours: null, triangles, parts, notes: [] })
}

test.each([
  ['a block', block, 256, 4],
  ['a block, closely', block, 256, 1],
  ['a ball', ball(), 256, 4],
  ['a ball, small and far apart', ball(), 128, 8],
])('%s: nothing overlaps, nothing is mirrored, and the spacing is held', async (_, mesh, size, spacing) => {
  const made = await unwrap(mesh, mesh.parts, { size, spacing, newAtlas })
  const facts = layoutFacts(layoutOf(made, made.parts[0]!), size)
  expect(facts).toMatchObject({
    overlappingPairs: 0,
    mirroredTriangles: 0,
    collapsedTriangles: 0,
    trianglesAcrossTiles: 0,
    trianglesOutside: 0,
    tiles: [1001],
  })
  expect(facts.spacingTexels ?? Infinity).toBeGreaterThanOrEqual(spacing)
  expect(facts.borderTexels).toBeGreaterThanOrEqual(spacing / 2)
  expect(facts.usedArea).toBeGreaterThan(0.2)
  // Charts have one scale.
  expect(facts.texelsPerMetre.deviation / facts.texelsPerMetre.mean).toBeLessThan(0.2)
  // The surface is the one it was, triangle for triangle.
  expect([volumeOf(made), areaOf(made), made.triangles.length]).toEqual([
    expect.closeTo(volumeOf(mesh), 6),
    expect.closeTo(areaOf(mesh), 5),
    mesh.triangles.length,
  ])
})

test('the same model gives the same UVs; those it had follow, and other parts stay', async () => {
  const two = finishMesh(readObj(`${blockObj(1, 1, 1)}o flat\nv 3 0 0\nv 4 0 0\nv 3 1 0\nf 9/1 10/2 11/3\n`))
  const [one, other] = [0, 1].map(() => unwrap(two, [two.parts[0]!], { size: 128, spacing: 2, newAtlas }))
  const made = await one!
  expect(made).toEqual(await other)
  expect(made.parts.map(({ name, uvSets }) => [name, uvSets])).toEqual([
    ['block', 2],
    ['flat', 1],
  ])
  const [, flat] = made.parts
  const corner = made.triangles[flat!.from * 3]!
  expect([...made.uvSets[0]!.subarray(corner * 2, corner * 2 + 2)]).toEqual([0, 1])
})

test('what does not fit is refused in words, and it can be cancelled', async () => {
  const asked = { size: 8, spacing: 8, newAtlas }
  await expect(unwrap(block, block.parts, asked)).rejects.toThrow('spacing')
  await expect(unwrap(block, block.parts, { ...asked, isCancelled: () => true })).rejects.toMatchObject({
    code: 'cancelled',
  })
})

test('a GLB of it has no errors for the glTF validator, and is read as what was written', async () => {
  const clay = ball()
  const mesh = await unwrap(clay, clay.parts, { size: 128, spacing: 2, newAtlas })
  const bytes = await writeGlb(mesh)
  const { issues } = await validateBytes(bytes)
  expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
  const { mesh: read } = await readMesh('b.glb', bytes, { decoders: {} })
  expect(read.parts).toEqual(mesh.parts)
  expect([read.triangles.length, areaOf(read)]).toEqual([mesh.triangles.length, expect.closeTo(areaOf(mesh), 6)])
})

/** Squares of UVs (left, top, width; v downward), each over a square of space. */
function squaresOf(...squares: readonly (readonly [number, number, number])[]): Mesh {
  const corners = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ] as const
  const lines = squares.flatMap(([left, top, wide], i) => [
    ...corners.map(([x, y]) => `v ${i * 2 + x} ${y} 0`),
    ...corners.map(([x, y]) => `vt ${left + x * wide} ${1 - top - wide + y * wide}`),
  ])
  const faces = squares.map((_, i) => `f ${[1, 2, 3, 4].map((k) => `${i * 4 + k}/${i * 4 + k}`).join(' ')}`)
  return finishMesh(readObj([...lines, ...faces].join('\n')))
}

describe('islands that are there', () => {
  test('packed anew they keep shape, turn and sizes beside each other, and the spacing is held', async () => {
    const crowded = squaresOf([0, 0, 0.3], [0.1, 0.1, 0.3], [0.301, 0, 0.15], [2.4, 7, 0.1])
    const made = await repack(crowded, crowded.parts, { size: 256, spacing: 8, uvSet: 0, newAtlas })
    const facts = layoutFacts(layoutOf(made, made.parts[0]!), 256)
    expect(facts).toMatchObject({
      islands: 4,
      overlappingPairs: 0,
      mirroredTriangles: 0,
      trianglesOutside: 0,
      tiles: [1001],
    })
    expect(facts.spacingTexels ?? Infinity).toBeGreaterThanOrEqual(8)
    const side = (mesh: Mesh, island: number) => {
      const at = (corner: number) => mesh.triangles[island * 6 + corner]! * 2
      const [a, b] = [at(0), at(1)]
      return [0, 1].map((k) => mesh.uvSets[0]![b + k]! - mesh.uvSets[0]![a + k]!)
    }
    const scale = side(made, 0)[0]! / side(crowded, 0)[0]!
    for (let island = 0; island < 4; island++)
      // Sizes are rounded to whole texels.
      side(made, island).forEach((v, k) =>
        expect(Math.abs(v - side(crowded, island)[k]! * scale)).toBeLessThan(1.01 / 256),
      )
    expect(areaOf(made)).toBeCloseTo(areaOf(crowded), 5)
    await expect(repack(crowded, crowded.parts, { size: 64, spacing: 2, uvSet: 3, newAtlas })).rejects.toThrow(
      'Unwrap it',
    )
  })

  test('those that lie over others are moved by whole tiles, the first of a heap stays, vertices are split', () => {
    const heap = squaresOf([0.1, 0.1, 0.3], [0.1, 0.1, 0.3], [0.2, 0.2, 0.3], [0.6, 0.6, 0.2])
    const made = shiftOverlapping(heap, heap.parts, 0)
    const left = (island: number) =>
      Math.min(...[0, 1, 2].map((k) => made.uvSets[0]![made.triangles[island * 6 + k]! * 2]!))
    expect([0, 1, 2, 3].map((island) => left(island).toFixed(3))).toEqual(['0.100', '1.100', '2.200', '0.600'])
    expect(areaOf(made)).toBe(areaOf(heap))
    // Of what lies in the first tile nothing lies over anything any more.
    const first = squaresOf([0.1, 0.1, 0.3], [0.6, 0.6, 0.2])
    expect(shiftOverlapping(first, first.parts, 0)).toBe(first)
    // Vertices that two islands share: a square and its mirror about an edge, both with the same UVs.
    const book = finishMesh(
      readObj(
        'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nv -1 0 0\nv -1 1 0\nv -1 2 0\nvt 0 0\nvt .4 0\nvt .4 .4\nvt 0 .4\nf 1/1 2/2 3/3 4/4\nf 1/1 5/2 6/3 7/4\n',
      ),
    )
    const opened = shiftOverlapping(book, book.parts, 0)
    expect(layoutOf(opened, opened.parts[0]!).overlaps.pairs).toHaveLength(0)
    expect([areaOf(opened), opened.positions.length / 3]).toEqual([areaOf(book), 8])
  })
})
