import type { IslandThreads } from '../../engine/island-threads'
import { LentMemory } from '../../kernels/lent-memory'
import { READ_BYTES } from '../../field/reads'
import type { IslandWork } from '../../kernels/island-borders'
import { BORDER, ISLAND } from '../../kernels/island-borders'
import type { Layout } from './layout'
import type { Topology } from './topology'
import { INNER, SEAM, nextEdge } from './topology'
import type { Unfolding } from './unfolding'

/** A box of the raster around an island. */
export interface GrownBox {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
}

/** The box of the picture of an island that is grown by `reach` texels. */
export const grownBox = ({ left, top, width, height }: GrownBox, reach: number): GrownBox => ({
  ...{ left: left - reach, top: top - reach },
  // Kernels go four texels at a time.
  ...{ width: Math.ceil((width + 2 * reach) / 4) * 4, height: height + 2 * reach },
})

/** Texels that are read elsewhere, island after island, in order of their places. */
export interface IslandReads {
  /** By island. */
  readonly boxes: readonly GrownBox[]
  /** By island the number of its first texel; then of the one after the last. */
  readonly firsts: readonly number[]
  /** By texel as IslandWork has them, in memory of those who found them. */
  readonly entries: Uint32Array
  readonly reads: Uint8Array
}

/** Rows of boxes that are laid in one go have about so many texels. */
const PIECE = 32768

/**
 * Where the surface goes on around islands, as far as `reach` texels, or in their rims. The same numbers whoever does which blocks.
 * Rejects with `cancelled`.
 */
export async function findReads(
  layout: Layout,
  texels: IslandWork['texels'],
  reach: number,
  threads: IslandThreads,
  isCancelled: () => boolean,
): Promise<IslandReads> {
  const memory = new LentMemory(threads)
  const none = { entries: new Uint32Array(0), reads: new Uint8Array(0) }
  try {
    const { boxes, border, cover, texels: count, rows } = layBoxes(layout, reach)
    const { topology, unfolding } = layout
    const work: IslandWork = {
      ...{ step: 'edges', texels, width: unfolding.width, height: unfolding.height, reach },
      places: memory.copied(unfolding.places),
      maps: memory.copied(unfolding.maps),
      lines: memory.copied(unfolding.lines),
      twin: memory.copied(topology.twin),
      islands: memory.copied(topology.island),
      owner: memory.copied(layout.cover.owner),
      cover: memory.copied(cover),
      border: memory.copied(border),
      boxes: memory.copied(boxes),
      blocks: memory.copied(wholeBoxes(boxes)),
      edges: memory.room(Int32Array, count),
      counts: memory.room(Int32Array, rows),
      firsts: memory.room(Int32Array, rows),
      ...none,
    }
    await threads.doIslands(work, isCancelled)
    let all = 0
    for (let row = 0; row < rows; row++) {
      work.firsts[row] = all
      all += work.counts[row]!
    }
    const laying: IslandWork = {
      ...{ ...work, step: 'reads', blocks: memory.copied(piecesOf(boxes)) },
      entries: memory.room(Uint32Array, all),
      reads: memory.room(Uint8Array, all * READ_BYTES),
    }
    await threads.doIslands(laying, isCancelled)
    const made = closedUp(laying, boxes)
    for (const kept of [laying.entries, laying.reads]) memory.keep(kept)
    return made
  } finally {
    memory.end()
  }
}

interface Boxes {
  readonly boxes: Int32Array
  readonly border: Float64Array
  readonly cover: Uint8Array
  /** Of all boxes. */
  readonly texels: number
  readonly rows: number
}

function layBoxes({ topology, unfolding, cover }: Layout, reach: number): Boxes {
  const boxes = new Int32Array(cover.boxes.length * ISLAND.numbers)
  const border: number[] = []
  const covers = new Uint8Array(cover.boxes.reduce((sum, box) => sum + box.cover.length, 0))
  let [texels, rows, covered] = [0, 0, 0]
  cover.boxes.forEach((box, island) => {
    const { left, top, width, height } = grownBox(box, reach)
    const edge = border.length / BORDER
    addBorder(topology, unfolding, island, left, top, border)
    covers.set(box.cover, covered)
    boxes.set(
      [left, top, width, height, texels, rows, edge, border.length / BORDER, covered, box.width, box.height],
      island * ISLAND.numbers,
    )
    texels += width * height
    rows += height
    covered += box.cover.length
  })
  return { boxes, border: Float64Array.from(border), cover: covers, texels, rows }
}

function addBorder(
  { islands, kind }: Topology,
  { places }: Unfolding,
  island: number,
  left: number,
  top: number,
  found: number[],
): void {
  for (const t of islands[island]!)
    for (let e = t * 3; e < t * 3 + 3; e++) {
      if (kind[e] === INNER) continue
      const next = nextEdge(e)
      const dx = places[next * 2]! - places[e * 2]!
      const dy = places[next * 2 + 1]! - places[e * 2 + 1]!
      const squarely = kind[e] === SEAM ? 1e12 : 0
      found.push(places[e * 2]! - left, places[e * 2 + 1]! - top, dx, dy, dx * dx + dy * dy, squarely, e)
    }
}

/** Each box as one block, the largest first: so that threads are done at about the same time. */
function wholeBoxes(boxes: Int32Array): Int32Array {
  const size = (island: number): number =>
    boxes[island * ISLAND.numbers + ISLAND.width]! * boxes[island * ISLAND.numbers + ISLAND.height]!
  const islands = Array.from({ length: boxes.length / ISLAND.numbers }, (_, i) => i).sort(
    (a, b) => size(b) - size(a) || a - b,
  )
  return Int32Array.from(islands.flatMap((island) => [island, 0, boxes[island * ISLAND.numbers + ISLAND.height]!]))
}

function piecesOf(boxes: Int32Array): Int32Array {
  const pieces: number[] = []
  for (let island = 0; island * ISLAND.numbers < boxes.length; island++) {
    const [width, height] = [
      boxes[island * ISLAND.numbers + ISLAND.width]!,
      boxes[island * ISLAND.numbers + ISLAND.height]!,
    ]
    const rows = Math.ceil(PIECE / Math.max(1, width))
    for (let row = 0; row < height; row += rows) pieces.push(island, row, Math.min(height, row + rows))
  }
  return Int32Array.from(pieces)
}

/** Leaves no gap where texels have no place to read. */
function closedUp({ entries, reads, counts, firsts }: IslandWork, boxes: Int32Array): IslandReads {
  let end = 0
  const islandFirsts: number[] = []
  const own: GrownBox[] = []
  for (let from = 0; from < boxes.length; from += ISLAND.numbers) {
    islandFirsts.push(end)
    const height = boxes[from + ISLAND.height]!
    own.push({
      ...{ left: boxes[from + ISLAND.left]!, top: boxes[from + ISLAND.top]! },
      ...{ width: boxes[from + ISLAND.width]!, height },
    })
    for (let row = boxes[from + ISLAND.row]!; row < boxes[from + ISLAND.row]! + height; row++) {
      const [first, count] = [firsts[row]!, counts[row]!]
      if (first !== end) {
        entries.copyWithin(end, first, first + count)
        reads.copyWithin(end * READ_BYTES, first * READ_BYTES, (first + count) * READ_BYTES)
      }
      end += count
    }
  }
  return {
    boxes: own,
    firsts: [...islandFirsts, end],
    entries: entries.subarray(0, end),
    reads: reads.subarray(0, end * READ_BYTES),
  }
}
