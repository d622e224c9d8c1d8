import fc from 'fast-check'
import { floorMod } from '../../field/field'
import { streamSeed } from '../../random'
import { documentOf, evaluateOutputs } from '../../testing/examples'
import { clipPolygon, doubleArea, inradius, polygonDistance } from '../polygon'
import type { BondName } from './bonds'
import { BONDS, BOND_NAMES } from './bonds'
import type { UnitShape } from './laid-units'
import { layUnits } from './laid-units'

const PLAIN: UnitShape = {
  bond: 'running',
  columns: 5,
  aspect: 2,
  shift: 0.5,
  slant: 0.125,
  rings: 6,
  spread: 0.6,
  height: 1,
  gap: 0,
  rounding: 0,
  positionJitter: 0,
  rotationJitter: 0,
  sizeJitter: 0,
}

/** Every legal way to lay units, over tiles of many proportions. */
const anyLaying = fc.record({
  columns: fc.integer({ min: 1, max: 9 }),
  aspect: fc.double({ min: 0.25, max: 6, noNaN: true }),
  shift: fc.double({ min: 0, max: 1, noNaN: true }),
  slant: fc.double({ min: -0.2, max: 0.2, noNaN: true }),
  rings: fc.integer({ min: 2, max: 12 }),
  spread: fc.double({ min: 0, max: 0.9, noNaN: true }),
  height: fc.constantFrom(1, 0.5, 2, 0.75, 1.5, 4 / 3, 0.3),
})

describe.each(BOND_NAMES)('%s', (bond: BondName) => {
  test('whatever is asked for, units cover the tile once: their areas add up to it, and points lie in one unit', () => {
    fc.assert(
      fc.property(
        anyLaying,
        fc.double({ min: 0, max: 0.999, noNaN: true }),
        fc.double({ min: 0, max: 0.999, noNaN: true }),
        (laying, u, v) => {
          const { units } = BONDS[bond]({ ...laying, random: (a, b) => floorMod(a * 0.37 + b * 0.61, 1) })
          const area = units.reduce((sum, { outline }) => sum + Math.abs(doubleArea(outline)) / 2, 0)
          let held = 0
          let near = 0
          const y = v * laying.height
          for (const { outline } of units) {
            const [cx, cy] = [outline[0]!, outline[1]!]
            const [i0, j0] = [Math.round(cx - u), Math.round((cy - y) / laying.height)]
            for (let i = i0 - 1; i <= i0 + 1; i++)
              for (let j = j0 - 1; j <= j0 + 1; j++) {
                const [px, py] = [u + i, y + j * laying.height]
                if (Math.abs(px - cx) > 1.5 || Math.abs(py - cy) > 1.5) continue
                const d = polygonDistance(outline, px, py)
                if (Math.abs(d) < 1e-9) near++
                else if (d > 0) held++
              }
          }
          if (bond === 'fan') {
            // Chords cut their arcs short, and slivers are left out: no more than once, and most of the tile.
            expect(area).toBeLessThanOrEqual(laying.height * (1 + 1e-9))
            expect(held).toBeLessThanOrEqual(1)
          } else {
            expect(Math.abs(area - laying.height)).toBeLessThan(1e-9)
            if (near === 0) expect(held).toBe(1)
          }
        },
      ),
      { numRuns: 25, seed: 5 },
    )
  })

  test('the distance to the gap equals brute force over the outlines of all units around', async () => {
    const params = {
      bond,
      columns: bond === 'fan' ? 8 : 3,
      aspect: 2,
      gap: 0.02,
      rounding: 0.015,
      positionJitter: 0.004,
      rotationJitter: 0.01,
      sizeJitter: 0.1,
    }
    const n = 48
    const { fields } = await evaluateOutputs(
      documentOf({ nodes: { lay: { type: 'bond', params } } }),
      ['lay.distance'],
      n,
    )
    const ours = [...fields.values()][0]!.planes[0]!
    const units = layUnits({ ...PLAIN, ...params }, STREAM)
    const outlines = units.flatMap((unit) => (unit ? [grown(unit.core, unit.round)] : []))
    for (let k = 0; k < 60; k++) {
      const [x, y] = [(k * 29) % n, (k * 17 + (k >> 3)) % n]
      expect(Math.abs(ours[y * n + x]! - bruteForce(outlines, (x + 0.5) / n, (y + 0.5) / n))).toBeLessThan(1e-4)
    }
  })

  test('next to each other, also across the border, texels well inside units are of one unit', async () => {
    for (const height of [1, 1.5]) {
      const document = documentOf({
        domain: { kind: 'tile', metres: [1, height] },
        nodes: {
          lay: {
            type: 'bond',
            params: { bond, columns: bond === 'fan' ? 8 : 4, aspect: 1.7, gap: 0.03, rotationJitter: 0.004 },
          },
        },
      })
      const names = ['lay.id', 'lay.value', 'lay.distance']
      const { fields } = await evaluateOutputs(document, names, 96)
      const [id, value, distance] = names.map((name) => fields.get(name)!)
      const rows = id!.height
      let pairs = 0
      for (let y = 0; y < rows; y++)
        for (let x = 0; x < 96; x++) {
          const here = y * 96 + x
          for (const there of [y * 96 + ((x + 1) % 96), ((y + 1) % rows) * 96 + x]) {
            if (distance!.planes[0]![here]! < 0 || distance!.planes[0]![there]! < 0) continue
            pairs++
            if (id!.ids![here] !== id!.ids![there] || value!.planes[0]![here] !== value!.planes[0]![there])
              throw new Error(`${bond}: two units meet at ${x}, ${y} without a gap`)
          }
        }
      expect(pairs).toBeGreaterThan(1000)
    }
  })
})

/** The seed of the bond's stream in a document of seed 5; see testing/examples.ts. */
const STREAM = streamSeed(5, 0, 'bond')

type Outline = readonly (readonly [number, number])[]

/** The outline of a convex core grown by a radius: its edges moved out, corners as arcs of 24 pieces. */
function grown(core: Float64Array, round: number): Outline {
  const n = core.length / 2
  const turn = doubleArea([...core]) < 0 ? -1 : 1
  const at = (i: number): [number, number] => [core[(2 * i) % (2 * n)]!, core[(2 * i + 1) % (2 * n)]!]
  const outward = (i: number): number => {
    const [[ax, ay], [bx, by]] = [at(i), at(i + 1)]
    return Math.atan2(-(bx - ax) * turn, (by - ay) * turn)
  }
  return Array.from({ length: n }, (_, i) => {
    const [bx, by] = at(i + 1)
    const from = outward(i)
    let sweep = outward(i + 1) - from
    sweep -= 2 * Math.PI * Math.round(sweep / (2 * Math.PI))
    return Array.from({ length: 25 }, (_, k): [number, number] => {
      const a = from + (sweep * k) / 24
      return [bx + Math.cos(a) * round, by + Math.sin(a) * round]
    })
  }).flat()
}

/** The deepest signed distance over all units and their copies, edge by edge. */
function bruteForce(outlines: readonly Outline[], x: number, y: number): number {
  let max = -Infinity
  for (const outline of outlines) {
    const [cx, cy] = outline[0]!
    for (let i = -1; i <= 1; i++)
      for (let j = -1; j <= 1; j++) {
        const [px, py] = [x + i, y + j]
        // No unit is so large that it matters from there.
        if (Math.abs(px - cx) > 0.9 || Math.abs(py - cy) > 0.9) continue
        let min = Infinity
        let within = false
        for (let k = 0; k < outline.length; k++) {
          const [ax, ay] = outline[k]!
          const [bx, by] = outline[(k + 1) % outline.length]!
          const [ex, ey] = [bx - ax, by - ay]
          const t = Math.min(1, Math.max(0, ((px - ax) * ex + (py - ay) * ey) / (ex * ex + ey * ey || 1)))
          min = Math.min(min, Math.hypot(px - ax - t * ex, py - ay - t * ey))
          if (ay > py !== by > py && px < ax + ((py - ay) / ey) * ex) within = !within
        }
        max = Math.max(max, within ? min : -min)
      }
  }
  return max
}

test('polygons: clipped, measured, and the inradius of a square and of a 3-4-5 triangle', () => {
  const square = [0, 0, 2, 0, 2, 2, 0, 2]
  expect(doubleArea(square)).toBe(8)
  expect(inradius(square)).toBeCloseTo(1, 3)
  expect(inradius([0, 0, 3, 0, 0, 4])).toBeCloseTo(1, 3)
  expect(clipPolygon(square, 1, 0, 1)).toEqual([1, 0, 2, 0, 2, 2, 1, 2])
  expect(clipPolygon(square, 1, 0, 3)).toEqual([])
  expect([polygonDistance(square, 1, 0.5), polygonDistance(square, 5, 6)]).toEqual([0.5, -5])
})
