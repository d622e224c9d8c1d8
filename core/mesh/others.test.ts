import bunny from 'bunny'
import teapot from 'teapot'
import { validateBytes } from 'gltf-validator'
import { uvAtlases } from '#runtime/node/uv-atlas'
import { bakePart, standardOptions, traced } from './bake-part'
import { kindsFor } from './mesh-data'
import type { Mesh } from './mesh'
import { meshSummary } from './mesh-summary'
import { layoutFactsAt, layoutProblems } from './layout-facts'
import { packMesh, unpackMesh } from './packed-mesh'
import { readMesh } from './read-mesh'
import { areaOf, volumeOf } from './testing/shapes'
import { unwrap } from './unwrap'
import { writeGlb } from './write-glb'
import { writePly } from './write-ply'

/*
 * Meshes of other people, in the public domain, from the packages "bunny" and "teapot": a scan with holes, and a form put together from
 * patches that pass through each other, with triangles without area.
 */
const others = { bunny, teapot }
const objOf = ({ positions, cells }: typeof bunny): string =>
  [
    'o scan',
    ...positions.map((place) => `v ${place.join(' ')}`),
    ...cells.map((corners) => `f ${corners.map((corner) => corner + 1).join(' ')}`),
  ].join('\n')
const host = { decoders: {} }
const newAtlas = await uvAtlases()

describe.each(Object.entries(others))('%s', (name, given) => {
  let mesh: Mesh
  let laid: Mesh
  beforeAll(async () => {
    ;({ mesh } = await readMesh(`${name}.obj`, new TextEncoder().encode(objOf(given)), host))
    laid = await unwrap(mesh, mesh.parts, { size: 96, spacing: 1, newAtlas })
  }, 60_000)

  test('is read, whole, and as PLY and GLB again; what has no area is told', async () => {
    const dropped = given.cells.length - mesh.triangles.length / 3
    expect(dropped < 0.2 * given.cells.length).toBe(true)
    expect(mesh.notes.some((note) => note.includes('without area'))).toBe(dropped > 0)
    for (const v of mesh.normals) expect(Number.isFinite(v)).toBe(true)
    if (name === 'bunny') expect(volumeOf(mesh)).toBeGreaterThan(0)
    for (const [file, bytes] of [
      ['a.ply', writePly(mesh)],
      ['a.glb', await writeGlb(mesh)],
    ] as const) {
      const { mesh: again } = await readMesh(file, bytes, host)
      expect([again.triangles.length, areaOf(again)]).toEqual([mesh.triangles.length, expect.closeTo(areaOf(mesh), 2)])
    }
    expect(unpackMesh(packMesh(mesh))).toEqual(mesh)
  })

  test('is unwrapped: nothing overlaps or is mirrored, and the validator finds no fault in its GLB', async () => {
    const [part] = meshSummary(laid).parts
    const problems = layoutProblems(layoutFactsAt(part!.layouts[0]!, 96), 96)
    expect(problems.filter(({ kind }) => kind !== 'collapsed' && kind !== 'spacing')).toEqual([])
    const { issues } = await validateBytes(await writeGlb(laid))
    expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
  })

  test('is baked: every kind has numbers, within its range', async () => {
    const bakers = kindsFor({ high: false, colours: true, texture: false })
    const { fields, covered } = await bakePart({
      mesh: laid,
      part: laid.parts[0]!,
      uvSet: 0,
      target: { width: 64, height: 64, left: 0, top: 0 },
      samples: 1,
      bakers,
      options: { ...standardOptions(laid), rays: 8 },
      scene: traced(laid),
      high: null,
      padding: 64,
    })
    for (const { name: kind, shown, type } of bakers)
      for (const plane of fields.get(kind)!.planes)
        for (const v of plane)
          expect(
            Number.isFinite(v) && (shown || type !== 'grey' || (v >= 0 && v <= 1.0001)) ? '' : `${kind} ${v}`,
          ).toBe('')
    // Normals baked from the surface itself are flat, seams and all.
    const [x, y, z] = fields.get('normal')!.planes
    const tilted = covered.reduce(
      (sum, has, i) => sum + (has && Math.abs(x![i]!) + Math.abs(y![i]!) > 4 / 255 && z![i]! > 0 ? 1 : 0),
      0,
    )
    expect(tilted / covered.reduce((sum, has) => sum + has, 0)).toBeLessThan(0.02)
  })
})
