import fc from 'fast-check'
import { randomNumbers } from '../testing/random-values'
import { readObj } from './formats/obj'
import { layoutOf } from './layout'
import { layoutFacts } from './layout-facts'
import { finishMesh } from './mesh'
import { meshSummary } from './mesh-summary'
import { findOverlaps } from './overlaps'
import { blockObj } from './testing/shapes'

const meshOf = (obj: string) => finishMesh(readObj(obj))
const layoutIn = (obj: string) => {
  const mesh = meshOf(obj)
  return layoutOf(mesh, mesh.parts[0]!)
}
/** A flat square of space under a square of UVs (left, below, right, above; v upward as in OBJ). */
const square = (at: number, [l, b, r, t]: readonly number[], from: number): string =>
  [
    ...[
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ].map(([x, y]) => `v ${at + x!} ${y} 0`),
    `vt ${l} ${b}\nvt ${r} ${b}\nvt ${r} ${t}\nvt ${l} ${t}`,
    `f ${[1, 2, 3, 4].map((k) => `${from + k}/${from + k}`).join(' ')}`,
  ].join('\n')
const squares = (...of: readonly (readonly number[])[]): string =>
  of.map((uvs, i) => square(i * 2, uvs, i * 4)).join('\n')

test('a block whose six sides all have the whole square: every two lie over one another', () => {
  const layout = layoutIn(blockObj(2, 3, 5))
  expect(layout.islands.count).toBe(6)
  // Fifteen pairs of sides, each with an area of 1 in common.
  expect(layout.overlaps.area).toBeCloseTo(15, 9)
  expect(layout.overlaps.complete).toBe(true)
  expect([layout.mirrored, layout.collapsed, layout.across, layout.outside]).toEqual([0, 0, 0, 0])
  expect(layout.tiles).toEqual([1001])
  expect(layout.usedArea).toBeCloseTo(6, 9)
  // Density is the root of UV area over area: least on the side of 3 × 5, greatest on that of 2 × 3.
  expect(layout.density.min).toBeCloseTo(1 / Math.sqrt(15), 9)
  expect(layout.density.max).toBeCloseTo(1 / Math.sqrt(6), 9)
  const mean = (2 * (6 / Math.sqrt(6) + 15 / Math.sqrt(15) + 10 / Math.sqrt(10))) / 62
  expect(layout.density.mean).toBeCloseTo(mean, 9)
  // The longer side over the shorter: 3/2, 5/3, 5/2.
  expect([layout.stretch.min, layout.stretch.max].map((v) => v.toFixed(6))).toEqual(['1.500000', '2.500000'])
})

test('squares apart: spacing, border, used area, and density at a width', () => {
  const layout = layoutIn(squares([0.01, 0.1, 0.21, 0.3], [0.22, 0.1, 0.42, 0.3]))
  expect(layout.islands.count).toBe(2)
  expect(layout.overlaps.pairs).toHaveLength(0)
  expect([...layout.spacing.nearest].map((v) => v.toFixed(6))).toEqual(['0.010000', '0.010000'])
  expect(layout.spacing.toBorder[0]).toBeCloseTo(0.01, 6)
  expect(layout.usedArea).toBeCloseTo(0.08, 6)
  // A metre has a fifth of the width: 204.8 texels of 1024.
  expect(layout.density.mean * 1024).toBeCloseTo(204.8, 3)
  expect(layout.stretch.mean).toBeCloseTo(1, 6)
})

test('mirrored, collapsed, outside and across tiles are told; UDIM numbers are those of their tiles', () => {
  const mirrored = layoutIn(squares([0.1, 0.1, 0.3, 0.3], [0.9, 0.1, 0.7, 0.3]))
  expect([mirrored.mirrored, mirrored.mirroredIslands]).toEqual([2, [1]])
  expect(layoutIn(squares([0.2, 0.2, 0.2, 0.4])).collapsed).toBe(2)
  // The second tile from the left, in the third row from below.
  expect(layoutIn(squares([1.1, 2.1, 1.9, 2.9], [0.1, 0.1, 0.2, 0.2])).tiles).toEqual([1001, 1022])
  expect(layoutIn(squares([-0.9, 0.1, -0.1, 0.9])).outside).toBe(2)
  expect(layoutIn(squares([0.5, 0.1, 1.5, 0.9])).across).toBe(2)
  const bare = meshOf('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n')
  expect(() => layoutOf(bare, bare.parts[0]!)).toThrow('Unwrap it first')
})

test('islands hang together over edges with the same places and UVs, as compared one with all others', () => {
  const random = randomNumbers(21)
  for (let run = 0; run < 30; run++) {
    // Triangles between few places, each with one of two UVs: edges of one, two and more triangles.
    const places = 5 + Math.floor(random() * 6)
    const lines = Array.from({ length: places }, (_, i) => `v ${i} ${(i * i) % 7} ${(i * 3) % 5}`)
    for (let k = 0; k < 2 * places; k++)
      lines.push(`vt ${(k % 5) / 8 + k / 64} ${Math.floor(k / 5) / 8 + (k % 3) / 64}`)
    const faces = Array.from({ length: 12 }, () => {
      const of: number[] = []
      while (of.length < 3) {
        const place = Math.floor(random() * places)
        if (!of.includes(place)) of.push(place)
      }
      return of.map((place) => [place, place + (random() < 0.3 ? places : 0)] as const)
    })
    lines.push(...faces.map((face) => `f ${face.map(([v, t]) => `${v + 1}/${t + 1}`).join(' ')}`))
    const mesh = meshOf(lines.join('\n'))
    // Faces without area are left out as a mesh is read.
    const kept = faces.filter((_, i) => !mesh.notes.length || hasArea(lines, faces[i]!))
    expect(mesh.triangles.length / 3).toBe(kept.length)
    const edges = kept.map((face) =>
      [0, 1, 2].map((k) =>
        [face[k]!, face[(k + 1) % 3]!]
          .map((end) => end.join())
          .sort()
          .join(' '),
      ),
    )
    // Grown from each face over all that have an edge in common with what was reached.
    const island = edges.map(() => -1)
    let count = 0
    for (let i = 0; i < edges.length; i++) {
      if (island[i]! >= 0) continue
      const open = [i]
      for (let at = open.pop(); at !== undefined; at = open.pop()) {
        island[at] = count
        for (const [other, of] of edges.entries())
          if (island[other]! < 0 && of.some((edge) => edges[at]!.includes(edge))) open.push(other)
      }
      count++
    }
    const { islands } = layoutOf(mesh, mesh.parts[0]!)
    expect([...islands.of]).toEqual(island)
    expect(islands.count).toBe(count)
    const once = edges.flat().filter((edge, _, all) => all.filter((other) => other === edge).length === 1)
    expect(islands.borders.points).toHaveLength(once.length * 4)
  }
})

/** Whether the three places of a face, in lines of an OBJ file, are corners of a triangle. */
function hasArea(lines: readonly string[], face: readonly (readonly [number, number])[]): boolean {
  const [a, b, c] = face.map(([place]) => lines[place]!.split(' ').slice(1).map(Number))
  const [u, v] = [b!, c!].map((end) => end.map((value, k) => value - a![k]!))
  const [x, y] = [u!, v!]
  return [0, 1, 2].some((k) => x[(k + 1) % 3]! * y[(k + 2) % 3]! !== x[(k + 2) % 3]! * y[(k + 1) % 3]!)
}

test('neighbours never overlap, however the grid between them is bent', () => {
  const random = randomNumbers(7)
  const n = 24
  const point = Array.from({ length: (n + 1) ** 2 }, (_, i) =>
    [i % (n + 1), Math.floor(i / (n + 1))].map((v) => Math.fround((v + (random() - 0.5) * 0.6) / n)),
  )
  const corners: number[] = []
  for (let y = 0; y < n; y++)
    for (let x = 0; x < n; x++) {
      const at = (dx: number, dy: number) => point[(y + dy) * (n + 1) + x + dx]!
      corners.push(...at(0, 0), ...at(1, 0), ...at(1, 1), ...at(0, 0), ...at(1, 1), ...at(0, 1))
    }
  // Bent by less than half a step, no triangle turns over.
  expect(findOverlaps(Float64Array.from(corners)).pairs).toHaveLength(0)
})

test('a layout in which all lies over all is told as not looked at to its end', () => {
  // Any two of 2000 have half a square in common: more pairs than are told.
  const many = Float64Array.from({ length: 2000 * 6 }, (_, i) => [0, 0, 1, 0, 0, 1][i % 6]!)
  const { pairs, area, complete } = findOverlaps(many)
  expect([pairs.length / 2, complete]).toEqual([100_000, false])
  expect(area).toBeCloseTo(50_000, 6)
  // The first is in a pair with each of the others, once.
  const first = [...pairs.subarray(0, 2 * 1999)]
  expect(new Set(first.filter((_, i) => i % 2)).size).toBe(1999)
  expect(first.every((t, i) => i % 2 === 1 || t === 0)).toBe(true)
})

test('points that lie in two triangles are in a pair that was found; pairs that were found have such points', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1e9 }), (seed) => {
      const random = randomNumbers(seed)
      const count = 12
      const corners = Float64Array.from({ length: count * 6 }, () => Math.fround(random()))
      const { pairs } = findOverlaps(corners)
      const found = new Set(Array.from({ length: pairs.length / 2 }, (_, i) => `${pairs[i * 2]} ${pairs[i * 2 + 1]}`))
      const inside = (t: number, x: number, y: number): boolean => {
        const c = corners.subarray(t * 6, t * 6 + 6)
        const side = (i: number, j: number) =>
          (c[j * 2]! - c[i * 2]!) * (y - c[i * 2 + 1]!) - (c[j * 2 + 1]! - c[i * 2 + 1]!) * (x - c[i * 2]!)
        const sides = [side(0, 1), side(1, 2), side(2, 0)]
        return sides.every((v) => v > 1e-9) || sides.every((v) => v < -1e-9)
      }
      const seen = new Map<string, number>()
      const samples = 3000
      for (let i = 0; i < samples; i++) {
        const [x, y] = [random(), random()]
        const hit = Array.from({ length: count }, (_, t) => t).filter((t) => inside(t, x, y))
        for (const a of hit) for (const b of hit) if (a < b) seen.set(`${a} ${b}`, (seen.get(`${a} ${b}`) ?? 0) + 1)
      }
      for (const pair of seen.keys()) expect(found.has(pair)).toBe(true)
      // What is in common, summed, by the share of points: within four deviations.
      const hits = [...seen.values()].reduce((sum, one) => sum + one, 0)
      const { area } = findOverlaps(corners)
      expect(Math.abs(hits / samples - area)).toBeLessThan(0.25 + area * 0.2)
    }),
    { numRuns: 60 },
  )
})

test('a summary tells of each part what its own layout comes to, overlaps too', () => {
  const parts = [
    [square(0, [0.1, 0.1, 0.3, 0.3], 0), square(2, [0.2, 0.1, 0.4, 0.3], 4)],
    [square(4, [0.5, 0.5, 0.6, 0.6], 8), square(6, [0.7, 0.5, 0.8, 0.6], 12)],
  ].map((squares, i) => [`o part ${i}`, ...squares].join('\n'))
  const mesh = meshOf(parts.join('\n'))
  const told = meshSummary(mesh).parts.map(({ layouts }) => layouts)
  expect(told).toEqual(mesh.parts.map((part) => [layoutFacts(layoutOf(mesh, part), 1)]))
  expect(told.map(([facts]) => facts!.overlappingArea.toFixed(6))).toEqual(['0.020000', '0.000000'])
})
