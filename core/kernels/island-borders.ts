import { READ_BYTES, fractionOf } from '../field/reads'
import { requiredSimd } from './simd'

/*
 * Where the surface of a part goes on beyond the borders of its islands: kernels of islands.ts on this thread, of whose work there are
 * blocks that threads share. Source: own composition, measured in its prototype (../mesh/seams/patches.ts).
 */

/**
 * Islands of a layout on a raster, each in a box of its own, and what is found for their texels. All arrays lie in the memory that the
 * kernels work in.
 */
export interface IslandWork {
  /** Of which steps this is: the nearest border edge of each texel, by whole boxes; then where it goes on from there, by rows of boxes. */
  readonly step: 'edges' | 'reads'
  /** What is asked for: texels around islands, as far as `reach`; or those of their rims, where the surface goes on. */
  readonly texels: 'around' | 'rims'
  readonly width: number
  readonly height: number
  readonly reach: number
  /** By half-edge, as an Unfolding has them. */
  readonly places: Float64Array
  readonly maps: Float64Array
  readonly lines: Float64Array
  /** The half-edge on the other side; −1 where there is none. */
  readonly twin: Int32Array
  /** By triangle the number of its island. */
  readonly islands: Int32Array
  /** By texel of the raster the number of its island; −1 of none. */
  readonly owner: Int32Array
  /** Texels of islands, box after box, as an IslandBox has them. */
  readonly cover: Uint8Array
  /** Edges at the borders of islands, BORDER numbers each: in texels of the box where it begins and its way; that squared; what it goes
   *  before others by; its number. */
  readonly border: Float64Array
  /** By island the numbers that ISLAND names. */
  readonly boxes: Int32Array
  /** Three numbers each: an island, the first of its rows, the one after the last. The largest first. */
  readonly blocks: Int32Array
  /** By texel of all boxes the half-edge that it goes on over, −1 where it does not; by row of all boxes how many do. */
  readonly edges: Int32Array
  readonly counts: Int32Array
  /** By row of all boxes where its texels begin among those that go on; then `counts` tells how many of them have a place to read. */
  readonly firsts: Int32Array
  /** By texel that goes on: its place, in the box if `around`, in the raster of `rims`; where it reads in the raster (field/reads.ts). */
  readonly entries: Uint32Array
  readonly reads: Uint8Array
}

/**
 * Numbers of an island in `boxes`: its box in the raster, and the first of its texels, rows and border edges among all of them; the edge
 * after its last one; where its cover begins, and the size of that.
 */
export const ISLAND = {
  left: 0,
  top: 1,
  width: 2,
  height: 3,
  texel: 4,
  row: 5,
  edge: 6,
  edgeEnd: 7,
  cover: 8,
  coverWidth: 9,
  coverHeight: 10,
  numbers: 11,
} as const

export const BORDER = 7

/** How far around an edge it is looked at to begin with, in texels; near ones are as far as rims go. */
const SEED = 1
const NEAR = 3
/** Texels after which is looked whether the work is still wanted. */
const PIECE = 65536

/** Does blocks of the islands of one part on this thread. Throws what `check` throws, memory-budget without SIMD. */
export class IslandBlocks {
  private readonly twin = requiredSimd('Neighbours over seams are found')

  constructor(
    private readonly work: IslandWork,
    private readonly check: () => void,
  ) {}

  static count = ({ blocks }: Pick<IslandWork, 'blocks'>): number => blocks.length / 3

  do(block: number): void {
    const { blocks, step } = this.work
    const island = blocks[block * 3]!
    this.twin.assembly.beginRaster(at(this.work.owner), this.work.width, this.work.height)
    if (step === 'edges') this.twin.scratch(() => this.findEdges(island))
    else this.findReads(island, blocks[block * 3 + 1]!, blocks[block * 3 + 2]!)
  }

  private box(island: number): (name: Exclude<keyof typeof ISLAND, 'numbers'>) => number {
    const from = island * ISLAND.numbers
    return (name) => this.work.boxes[from + ISLAND[name]]!
  }

  private findEdges(island: number): void {
    const { border, cover, edges, counts, reach, texels, twin } = this.work
    const { assembly } = this.twin
    const box = this.box(island)
    const [width, height] = [box('width'), box('height')]
    const count = width * height
    if (count === 0) return
    const own = at(cover) + box('cover')
    const [toEdges, toCounts] = [at(edges) + box('texel') * 4, at(counts) + box('row') * 4]
    const [from, to] = [box('edge'), box('edgeEnd')]
    assembly.beginBorder(
      at(border) + from * BORDER * 8,
      ...([this.twin.take(Math.ceil(count / 4)), toEdges, this.twin.take(count)] as const),
      ...([width, height, own, box('coverWidth'), box('coverHeight'), reach] as const),
    )
    const isNear = texels === 'rims'
    const some = Math.max(1, Math.floor(PIECE / width))
    for (let edge = 0; edge < to - from; edge += some) {
      this.check()
      assembly.seedBorder(edge, Math.min(to - from, edge + some), isNear ? NEAR : SEED)
    }
    const far = (reach + 3) * (reach + 3)
    // Once down and once up: another time would change 31 of 800 000 texels around the 47 islands of a head, and none of a demo part's.
    for (const step of isNear ? [] : [1, -1])
      for (let row = 0; row < height; row += some) {
        this.check()
        assembly.sweepBorder(step === 1 ? row : height - 1 - row, Math.min(some, height - row), step, far)
      }
    const place = [island, box('left'), box('top')] as const
    if (isNear) assembly.closeRim(...place, own, box('coverWidth'), at(twin), toCounts)
    else assembly.closeBorder(...place, (reach + 2) * (reach + 2), toCounts)
  }

  private findReads(island: number, from: number, to: number): void {
    const { places, maps, lines, twin, islands, edges, counts, firsts, entries, reads, texels } = this.work
    const { assembly } = this.twin
    const box = this.box(island)
    const [left, top, width] = [box('left'), box('top'), box('width')]
    assembly.beginLayout(at(places), at(maps), at(lines), at(twin), at(islands))
    const isRim = texels === 'rims'
    const fraction = fractionOf(this.work.width, this.work.height)
    for (let y = from; y < to; y++) {
      const row = box('row') + y
      if (counts[row] === 0) continue
      this.check()
      const first = firsts[row]!
      counts[row] = assembly.layRow(
        at(edges) + (box('texel') + y * width) * 4,
        ...([width, left, top + y, isRim ? -1 : island] as const),
        isRim ? (top + y) * this.work.width + left : y * width,
        ...([at(entries) + first * 4, at(reads) + first * READ_BYTES, fraction] as const),
      )
    }
  }
}

const at = (values: ArrayBufferView): number => values.byteOffset
