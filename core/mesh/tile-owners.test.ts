import fc from 'fast-check'
import { fileSets, sharing } from './file-sets'
import { meshOf } from './testing/bake-here'
import { sheetsObj } from './testing/shapes'
import { partInTile, trianglesByTile } from './tile-of-part'
import { tileCollisions, tileOwners } from './tile-owners'

/** A part for each rectangle. */
const sheets = (rectangles: Parameters<typeof sheetsObj>[0][number]) =>
  meshOf(sheetsObj(rectangles.map((one) => [one])))

const SIZE = 16

test('each part has its texels, and what nobody covers is of the nearest', () => {
  const mesh = sheets([
    [0, 0, 0.24, 1],
    [0.76, 0, 1, 1],
  ])
  const owners = tileOwners({ mesh, uvSet: 0 }, [{ part: 0 }, { part: 1 }], SIZE, SIZE)
  // Between them the border lies in the middle, to the texel.
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) expect([x, y, owners[y * SIZE + x]]).toEqual([x, y, x < SIZE / 2 ? 0 : 1])
  expect(() => tileOwners({ mesh, uvSet: 0, udim: 1002 }, [{ part: 0 }], SIZE, SIZE)).toThrow('this tile of UVs')
  expect(() => tileOwners({ mesh, uvSet: 1 }, [{ part: 0 }], SIZE, SIZE)).toThrow('no such UVs')
})

test('where parts lie over one another the later one counts, and the collision is told', () => {
  const mesh = sheets([
    [0, 0, 0.75, 1],
    [0.5, 0, 1, 1],
    [0, 0, 0.25, 0.25],
  ])
  const tile = { mesh, uvSet: 0 }
  const both = tileOwners(tile, [{ part: 0 }, { part: 1 }], SIZE, SIZE)
  expect([both[SIZE / 2 - 1], both[SIZE / 2]]).toEqual([0, 1])
  expect([...tileOwners(tile, [{ part: 1 }, { part: 0 }], SIZE, SIZE)].filter((one) => one === 1)).toHaveLength(
    SIZE * SIZE * 0.75,
  )
  // What is touched only, at the edge between texels, goes to whoever has its middle.
  const halves = sheets([
    [0, 0, 0.5, 1],
    [0.5, 0, 1, 1],
  ])
  for (const order of [
    [0, 1],
    [1, 0],
  ]) {
    const owners = tileOwners(
      { mesh: halves, uvSet: 0 },
      order.map((part) => ({ part })),
      SIZE,
      SIZE,
    )
    expect(order[owners[SIZE / 2 - 1]!]).toBe(0)
    expect(order[owners[SIZE / 2]!]).toBe(1)
  }
  expect(tileCollisions({ mesh: halves, uvSet: 0 }, [0, 1])).toEqual([])
  const found = tileCollisions(tile, [0, 1, 2])
  expect(found.map(({ parts }) => parts)).toEqual([
    [0, 1],
    [0, 2],
  ])
  expect(found.every(({ pairs }) => pairs > 0)).toBe(true)
  expect(tileCollisions(tile, [1, 2])).toEqual([])
})

test('IDs of a part take their texels from what lies on all of it', () => {
  const mesh = sheets([[0, 0, 1, 1]])
  const numbers = Uint32Array.from({ length: SIZE * SIZE }, (_, i) => 1 + (i % SIZE >= 4 ? 1 : 0))
  const wanted = new Set([2])
  const owners = tileOwners({ mesh, uvSet: 0 }, [{ part: 0 }, { part: 0, ids: { numbers, wanted } }], SIZE, SIZE)
  expect([...owners.subarray(0, SIZE)]).toEqual(Array.from({ length: SIZE }, (_, x) => (x >= 4 ? 1 : 0)))
})

/** UDIM, by memory of its definition: 1001 + column + 10 · row, rows counted upward. */
test('the tile of a part by its UDIM number has its triangles in 0–1', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 9 }), fc.integer({ min: 0, max: 20 }), (column, row) => {
      const mesh = sheets([
        [column + 0.25, row + 0.5, column + 0.75, row + 0.75],
        [0, 0, 1, 1],
      ])
      const udim = 1001 + column + 10 * row
      expect([...trianglesByTile(mesh.triangles.subarray(0, 6), mesh.uvSets[0]!).keys()]).toEqual([udim])
      const { mesh: own, part } = partInTile(mesh, 0, 0, udim)
      expect([part, own.parts.length, own.parts[0]!.count]).toEqual([0, 1, 2])
      const uvs = [...own.triangles].map((vertex) => [own.uvSets[0]![vertex * 2], own.uvSets[0]![vertex * 2 + 1]])
      expect(new Set(uvs.map(([u]) => u))).toEqual(new Set([0.25, 0.75]))
      expect(new Set(uvs.map(([, v]) => v))).toEqual(new Set([0.25, 0.5]))
    }),
  )
})

test('file sets: one for each tile of each part, and parts that share theirs in one', () => {
  const placed = [{ part: 2 }, { part: 0, ids: { kind: 'piece-id' as const, numbers: [1] } }, { part: 0 }, { part: 1 }]
  const tiles = (part: number): number[] => (part === 2 ? [1001, 1002] : [1001])
  expect(fileSets(placed, {}, tiles).map(({ part, udim }) => [part, udim])).toEqual([
    [0, undefined],
    [1, undefined],
    [2, 1001],
    [2, 1002],
  ])
  const shared = fileSets(placed, { 2: 0 }, tiles)
  expect(shared.map(({ part, udim, placed: own }) => [part, udim, own.map((one) => one.part)])).toEqual([
    [0, 1001, [0, 0, 2]],
    [0, 1002, [2]],
    [1, undefined, [1]],
  ])
  // What lies on all of a part lies under what lies on its IDs.
  expect(shared[0]!.placed.map(({ ids }) => ids !== undefined)).toEqual([false, true, false])
})

test('sharing is one deep, whoever shares with whom', () => {
  const part = fc.integer({ min: 0, max: 5 })
  fc.assert(
    fc.property(fc.array(fc.tuple(part, part)), (steps) => {
      let joins: Record<number, number> = {}
      for (const [one, other] of steps) {
        const next = sharing(joins, one, other)
        // A part that shares with another is in its files afterwards, unless the other was in its own.
        if (one !== other && joins[other] !== one) expect(next[one]).toBe(joins[other] ?? other)
        if (one === other) expect(next[one]).toBeUndefined()
        joins = next
        for (const owner of Object.values(joins)) expect(joins[owner]).toBeUndefined()
      }
    }),
  )
})
