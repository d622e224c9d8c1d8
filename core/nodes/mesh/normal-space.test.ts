import { cosTurns, sinTurns } from '../../elementary'
import type { Field } from '../../field/field'
import { createField } from '../../field/field'
import { throughFrames } from '../../kernels/frames'
import { withoutBase, combineNormalFields } from '../../kernels/normals'
import { allRows } from '../../kernels/rows'
import { bake, ground, meshOf, swept } from '../../mesh/testing/bake-here'
import { randomNumbers } from '../../testing/random-values'
import { EXAMPLE_PART } from '../../graph/example-part'
import { documentOf, evaluateOutputs } from '../../testing/examples'
import { registry } from '../registry.generated'

const SIZE = 48
const fieldOf = (planes: readonly Float32Array[], width = SIZE): Field => {
  const field = createField('normal', width, planes[0]!.length / width)
  field.planes.forEach((plane, p) => plane.set(planes[p]!))
  return field
}

/** A ring of few faces, so that the frames between its corners are far from those at them; every second one mirrored in its UVs. */
function ring(segments: number) {
  const mesh = swept(
    (s, t) => {
      const [c, d, e, f] = [cosTurns(s), sinTurns(s), cosTurns(t), sinTurns(t)]
      return { place: [(1 + 0.4 * e) * c, 0.4 * f, (1 + 0.4 * e) * d], normal: [e * c, f, e * d] }
    },
    segments,
    segments,
  )
  return mesh
}

async function dataOf(mesh: ReturnType<typeof ring>, high?: ReturnType<typeof ring>) {
  const of = async (name: string) => {
    const { planes, covered } = await bake(mesh, name, { width: SIZE, high, options: { front: 0.3, back: 0.3 } })
    return { field: fieldOf(planes), covered }
  }
  const [normal, object, tangent, bitangent, low] = await Promise.all(
    ['normal', 'object-normal', 'tangent', 'bitangent', 'low-normal'].map(of),
  )
  return {
    ...{ normal: normal!.field, object: object!.field, covered: normal!.covered },
    frames: { tangent: tangent!.field, bitangent: bitangent!.field, low: low!.field },
  }
}

/** The largest difference of two fields where something lies. */
const off = (a: Field, b: Field, covered: Uint8Array): number =>
  Math.max(
    ...a.planes.map((plane, p) => Math.max(...plane.map((v, i) => (covered[i] ? Math.abs(v - b.planes[p]![i]!) : 0)))),
  )

test.each([
  ['as it is', false],
  ['mirrored in its UVs', true],
])(
  'normals baked of a high twin go from the surface to the model and back, on a coarse ring %s',
  async (_, mirrored) => {
    const mesh = ring(7)
    if (mirrored) mesh.uvSets[0]!.forEach((v, i, uvs) => i % 2 === 0 && (uvs[i] = 1 - v))
    const { normal, object, frames, covered } = await dataOf(mesh, ring(64))
    const made = createField('normal', SIZE, SIZE)
    throughFrames(normal, frames, made, allRows(SIZE), 'out')
    // Half a step of 8 bits.
    expect(off(made, object, covered)).toBeLessThan(1 / 510)
    throughFrames(object, frames, made, allRows(SIZE), 'in')
    expect(off(made, normal, covered)).toBeLessThan(1 / 510)
    // Only with lengths as they are between corners: of length 1 they are off by more than what is allowed.
    const unit = Object.fromEntries(
      Object.entries(frames).map(([name, { planes }]) => {
        const length = (i: number) => Math.hypot(...planes.map((plane) => plane[i]!))
        return [name, fieldOf(planes.map((plane) => plane.map((v, i) => v / length(i))))]
      }),
    ) as unknown as typeof frames
    throughFrames(normal, unit, made, allRows(SIZE), 'out')
    expect(off(made, object, covered)).toBeGreaterThan(1 / 510)
  },
)

test('by hand: a plane on the ground, u to +X and v up to −Z', async () => {
  const { frames } = await dataOf(meshOf(ground(2)) as ReturnType<typeof ring>)
  const of = (x: number, y: number, z: number) => fieldOf([x, y, z].map((v) => new Float32Array(SIZE * SIZE).fill(v)))
  const made = createField('normal', SIZE, SIZE)
  throughFrames(of(0.6, 0, 0.8), frames, made, allRows(SIZE), 'out')
  expect(made.planes.map((plane) => plane[SIZE * 20 + 20]!)).toEqual([0.6, 0.8, 0].map((v) => expect.closeTo(v, 6)))
  throughFrames(of(0, 0.6, 0.8), frames, made, allRows(SIZE), 'out')
  expect(made.planes.map((plane) => plane[SIZE * 20 + 20]!)).toEqual([0, 0.8, -0.6].map((v) => expect.closeTo(v, 6)))
})

test('what is laid onto base normals comes back when the base is taken out', () => {
  const random = randomNumbers(4)
  const some = (tilt: number): Field => {
    const planes = [0, 1, 2].map(() => new Float32Array(SIZE))
    for (let i = 0; i < SIZE; i++) {
      const [x, y] = [(random() * 2 - 1) * tilt, (random() * 2 - 1) * tilt]
      const length = Math.sqrt(x * x + y * y + 1)
      planes.forEach((plane, p) => (plane[i] = [x, y, 1][p]! / length))
    }
    return fieldOf(planes)
  }
  const [base, detail, both] = [some(2), some(1.5), createField('normal', SIZE, 1)]
  combineNormalFields(base, detail, null, both, allRows(1), 'reoriented', 1)
  withoutBase(base, both, allRows(1))
  expect(off(both, detail, new Uint8Array(SIZE).fill(1))).toBeLessThan(1e-5)
})

test('the delivered object normal of a part is that of its delivered normal, whatever layers lie on it', async () => {
  const domain = { kind: 'part', on: EXAMPLE_PART }
  const nodes = {
    bumps: { type: 'noise', params: { cells: [9, 9] } },
    slopes: { type: 'height-to-normal', inputs: { height: 'bumps.grey' } },
    object: { type: 'mesh-data', params: { kind: 'object-normal' } },
  }
  const layer = { kind: 'layer', id: 'a', name: 'A', cells: { normal: { source: { node: 'slopes.normal' } } } }
  const of = async (layers: object[]) => {
    const document = documentOf({ domain, nodes, layers })
    const outputs = ['object-normal', 'object.normal', 'normal']
    const { fields } = await evaluateOutputs(document, outputs, SIZE, { node: registry.get('facing')! })
    return outputs.map((name) => fields.get(name)!)
  }
  const all = new Uint8Array(SIZE * SIZE).fill(1)
  const [plain, baked] = await of([])
  expect(off(plain!, baked!, all)).toBeLessThan(1e-3)
  const [bumpy, , normal] = await of([layer])
  expect(off(bumpy!, baked!, all)).toBeGreaterThan(0.1)
  // Lengths and angles stay: the angle to the baked direction is that to straight out of the surface.
  const cosine = (i: number) => bumpy!.planes.reduce((sum, plane, p) => sum + plane[i]! * baked!.planes[p]![i]!, 0)
  for (let i = 0; i < SIZE * SIZE; i += 7) expect(cosine(i)).toBeCloseTo(normal!.planes[2]![i]!, 2)
})

test('a tile has no object normals to deliver', async () => {
  await expect(evaluateOutputs(documentOf({}), ['object-normal'], 8)).rejects.toMatchObject({
    code: 'reference-unknown',
  })
})
