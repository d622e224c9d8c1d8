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
import { unwrap } from './unwrap'
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
