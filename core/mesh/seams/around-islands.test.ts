import fc from 'fast-check'
import { islandsHere } from '../../engine/island-threads'
import { fractionOf, newRead, unpackRead } from '../../field/reads'
import { randomNumbers } from '../../testing/random-values'
import type { Mesh } from '../mesh'
import { finishMesh } from '../mesh'
import { findReads } from './around-islands'
import type { IslandReads } from './around-islands'
import { Layouts } from './layout'
import type { Topology } from './topology'
import { topologyOf } from './topology'

const SIZE = 160
const REACH = 12
const FRACTION = fractionOf(SIZE, SIZE)
/** Texels of a side of the sheet, and of a piece. */
const PIECE = 24
const SIDE = 2 * PIECE
/** Squares of a piece along its side. */
const SQUARES = 4
/** Where the pieces lie, so that all have room around them: their middles. */
const MIDDLES = [40, 120]

/** Where a piece lies: turned about its middle, and turned over where `mirror` is −1. */
interface Lying {
  readonly turn: number
  readonly mirror: number
  readonly middle: readonly [number, number]
  readonly cut: readonly [number, number]
}

const onRaster = ({ turn, mirror, middle, cut }: Lying, x: number, y: number): [number, number] => {
  const [u, v] = [(x - cut[0] - PIECE / 2) * mirror, y - cut[1] - PIECE / 2]
  const [cosine, sine] = [Math.cos(turn), Math.sin(turn)]
  return [middle[0] + cosine * u - sine * v, middle[1] + sine * u + cosine * v]
}

const onSheet = ({ turn, mirror, middle, cut }: Lying, x: number, y: number): [number, number] => {
  const [dx, dy] = [x - middle[0], y - middle[1]]
  const [cosine, sine] = [Math.cos(turn), Math.sin(turn)]
  return [(cosine * dx + sine * dy) * mirror + cut[0] + PIECE / 2, cosine * dy - sine * dx + cut[1] + PIECE / 2]
}

/** A flat sheet of uneven triangles, cut into four pieces that lie somewhere else each. */
function cutSheet(seed: number): { mesh: Mesh; lying: Lying[] } {
  const random = randomNumbers(seed)
  const lines = 2 * SQUARES
  const corners = Array.from({ length: (lines + 1) ** 2 }, (_, i) => {
    const [column, row] = [i % (lines + 1), Math.floor(i / (lines + 1))]
    const shift = (at: number): number => (at % SQUARES === 0 ? 0 : (random() - 0.5) * 0.4)
    // On a cut it stays there.
    return [((column + shift(column)) * SIDE) / lines, ((row + shift(row)) * SIDE) / lines] as const
  })
  const lying: Lying[] = []
  const [positions, uvs, triangles]: [number[], number[], number[]] = [[], [], []]
  for (const [py, down] of MIDDLES.entries())
    for (const [px, across] of MIDDLES.entries()) {
      const own: Lying = {
        ...{ turn: random() * 2 * Math.PI, mirror: random() < 0.5 ? -1 : 1 },
        ...{ middle: [across, down], cut: [px * PIECE, py * PIECE] },
      }
      lying.push(own)
      const first = positions.length / 3
      for (let j = 0; j <= SQUARES; j++)
        for (let i = 0; i <= SQUARES; i++) {
          const [x, y] = corners[(py * SQUARES + j) * (lines + 1) + px * SQUARES + i]!
          positions.push(x, 0, y)
          uvs.push(...onRaster(own, x, y).map((v) => v / SIZE))
          if (i === SQUARES || j === SQUARES) continue
          const at = first + j * (SQUARES + 1) + i
          triangles.push(at, at + SQUARES + 1, at + 1, at + 1, at + SQUARES + 1, at + SQUARES + 2)
        }
    }
  const mesh = finishMesh({
    positions: Float32Array.from(positions),
    normals: null,
    uvSets: [Float32Array.from(uvs)],
    colours: null,
    triangles: Uint32Array.from(triangles),
    parts: [{ name: 'sheet', material: null, from: 0, count: triangles.length / 3, uvSets: 1 }],
    notes: [],
  })
  return { mesh, lying }
}

async function readsOf(topology: Topology, texels: 'around' | 'rims', reach: number): Promise<IslandReads> {
  const layout = await new Layouts().get(topology, SIZE, SIZE, async () => {})
  return findReads(layout, texels, reach, islandsHere(), () => false)
}

test('texels around the pieces of a cut sheet read where the sheet goes on, turned as it lies there (closed form)', async () => {
  await fc.assert(
    fc.asyncProperty(fc.integer({ min: 0, max: 1e6 }), async (seed) => {
      const { mesh, lying } = cutSheet(seed)
      const topology = topologyOf(mesh, mesh.parts[0]!, 0)
      expect(topology.islands).toHaveLength(4)
      const { boxes, firsts, entries, reads } = await readsOf(topology, 'around', REACH)
      let [looked, off, wronglyTurned] = [0, 0, 0]
      for (const [island, box] of boxes.entries())
        for (let i = firsts[island]!; i < firsts[island + 1]!; i++) {
          const [x, y] = [
            (entries[i]! % box.width) + box.left + 0.5,
            Math.floor(entries[i]! / box.width) + box.top + 0.5,
          ]
          const [sx, sy] = onSheet(lying[island]!, x, y)
          // Near a cut it may read a texel of either side; near the sheet's own border, along it.
          const inside = (v: number): boolean => v > 1.5 && v < SIDE - 1.5 && Math.abs(v - PIECE) > 1.5
          if (!inside(sx) || !inside(sy)) continue
          looked++
          const there = lying[Math.floor(sy / PIECE) * 2 + Math.floor(sx / PIECE)]!
          const [rx, ry] = onRaster(there, sx, sy)
          const read = unpackRead(reads, i, FRACTION, newRead())
          off = Math.max(off, Math.abs(read.x + 0.5 - rx), Math.abs(read.y + 0.5 - ry))
          // A step to the right here is that step there, before it is turned over.
          const [ax, ay] = onRaster(there, ...onSheet(lying[island]!, x + 1, y))
          off = Math.max(off, Math.abs(read.cosine - (ax - rx)), Math.abs(read.sine - (ay - ry)))
          if (read.mirror !== there.mirror * lying[island]!.mirror) wronglyTurned++
        }
      expect(looked).toBeGreaterThan(600)
      expect(off).toBeLessThan(1e-3)
      expect(wronglyTurned).toBe(0)
    }),
    { numRuns: 40 },
  )
})

test('around a lone piece texels read along its border, none farther off than the reach', async () => {
  const { mesh } = cutSheet(5)
  const own = topologyOf(mesh, { ...mesh.parts[0]!, count: 2 * SQUARES * SQUARES }, 0)
  const { boxes, firsts, entries, reads } = await readsOf(own, 'around', REACH)
  expect(firsts.at(-1)).toBeGreaterThan(1000)
  const [box] = boxes
  for (let i = 0; i < entries.length; i++) {
    const [x, y] = [(entries[i]! % box!.width) + box!.left, Math.floor(entries[i]! / box!.width) + box!.top]
    const read = unpackRead(reads, i, FRACTION, newRead())
    expect(Math.hypot(read.x - x, read.y - y)).toBeLessThan(REACH + 4)
  }
  // Rims of a border where nothing goes on are no rims.
  expect((await readsOf(own, 'rims', 0)).entries).toHaveLength(0)
})

test('work that nobody wants is given up', async () => {
  const { mesh } = cutSheet(1)
  const layout = await new Layouts().get(topologyOf(mesh, mesh.parts[0]!, 0), SIZE, SIZE, async () => {})
  const here = islandsHere()
  const taken = new Set<number>()
  const counted = {
    ...here,
    allocate: (bytes: number) => {
      const region = here.allocate(bytes)
      taken.add(region.byteOffset)
      return region
    },
    free: (region: ArrayBufferView) => {
      taken.delete(region.byteOffset)
      here.free(region)
    },
  }
  await expect(findReads(layout, 'around', REACH, counted, () => true)).rejects.toMatchObject({ code: 'cancelled' })
  expect(taken.size).toBe(0)
})
