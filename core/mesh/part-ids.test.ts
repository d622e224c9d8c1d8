import { ID_KINDS } from '../picked-ids'
import { PartIds } from './part-ids'
import { meshOf } from './testing/bake-here'

/** Two squares apart in space, side by side in UVs, whose corners are red and green. */
const mesh = meshOf(`o Pair
v 0 0 0 1 0 0
v 1 0 0 1 0 0
v 1 1 0 1 0 0
v 0 1 0 0 1 0
v 3 0 0 0 1 0
v 4 0 0 0 1 0
v 4 1 0 0 1 0
v 3 1 0 0 1 0
vt 0 0
vt 0.4 0
vt 0.4 1
vt 0 1
vt 0.6 0
vt 1 0
vt 1 1
vt 0.6 1
f 1/1 2/2 3/3 4/4
f 5/5 6/6 7/7 8/8
`)

test('the numbers of a part, and the one at a place', () => {
  const ids = new PartIds(mesh, 0, 0)
  expect(ids.all('piece-id')).toEqual([1, 2])
  expect(ids.all('island-id')).toEqual([1, 2])
  expect(ids.all('colour-id')).toEqual([1, 2])
  const thirds = { weights: [0.3, 0.3] as const }
  expect([0, 1, 2, 3].map((triangle) => ids.at('piece-id', { triangle, ...thirds }))).toEqual([1, 1, 2, 2])
  expect([...ids.byTriangle('island-id')]).toEqual([1, 1, 2, 2])
  // Near a corner the corner's colour counts.
  const near = [
    [0.1, 0.1],
    [0.8, 0.1],
    [0.1, 0.8],
  ] as const
  for (let corner = 0; corner < 12; corner++) {
    const isGreen = mesh.colours![mesh.triangles[corner]! * 4 + 1] === 1
    const point = { triangle: Math.floor(corner / 3), weights: near[corner % 3]! }
    expect([corner, ids.at('colour-id', point)]).toEqual([corner, isGreen ? 2 : 1])
  }
  for (const kind of ID_KINDS) expect(new PartIds(mesh, 0, 3).all(kind).length).toBeGreaterThan(0)
})

test('a colour that only one corner of all has is found, whichever that is', () => {
  const one = (first: number): string => {
    const colours = ['1 0 0', '0 1 0', '0 0 1'].map((_, i, all) => all[(i + first) % 3]!)
    return `o One\nv 0 0 0 ${colours[0]}\nv 1 0 0 ${colours[1]}\nv 0 1 0 ${colours[2]}\nvt 0 0\nvt 1 0\nvt 0 1\nf 1/1 2/2 3/3`
  }
  for (const first of [0, 1, 2]) expect(new PartIds(meshOf(one(first)), 0, 0).all('colour-id')).toEqual([1, 2, 3])
})
