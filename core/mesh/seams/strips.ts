import { heapHere } from '../../kernels/heap-here'
import { LentMemory } from '../../kernels/lent-memory'
import { requiredSimd } from '../../kernels/simd'
import type { GrownBox } from './around-islands'
import type { Cover } from './cover'
import { CORE } from './cover'
import type { Topology } from './topology'
import { SEAM, nextEdge } from './topology'
import type { Unfolding } from './unfolding'

/**
 * Texels beside a stretch of seam, and where the island on the other side holds the values that belong there too: beyond its own border.
 * MEETING numbers each, the first one as a whole number: the texel of the raster; what the mean of both counts beside the texel's own
 * value, which counts 1; where it reads there, two numbers in texels from the raster's corner; the linear part of the way there, four.
 */
export interface Meetings {
  /** The one on the other side. */
  readonly island: number
  readonly wholes: Int32Array
  readonly numbers: Float32Array
}

export const MEETING = 8

/** Distance in texels below which a texel counts as on the seam. */
const ON_SEAM = 0.05
/** Places of edges are one where they are this near, in shares of a texel. */
const STEPS = 64

/**
 * The strips of `width` texels beside all seams, in which both islands' results of a smoothing step are mixed: half and half at the
 * seam, whatever else is near. Only places within `reach` texels of the other island's border count.
 * Source: own composition, measured in its prototype: 99th percentile of the steps over a head's seams from .052 to .0014.
 */
export function meetingsOf(
  topology: Topology,
  unfolding: Unfolding,
  cover: Cover,
  width: number,
  reach: number,
): Meetings[] {
  const { island, twin } = topology
  const ends = endsOf(topology, unfolding)
  const beside = new Beside(unfolding, cover, smoothedTurns(ends, twin.length, unfolding), width, reach)
  const meetings: Meetings[] = []
  /** By texel the distance to the nearest seam. */
  const nearestSeam = new Float32Array(unfolding.width * unfolding.height).fill(Infinity)
  try {
    for (const stretch of stretchesOf(ends)) {
      const numbers = beside.find(stretch, island[Math.floor(stretch[0]! / 3)]!)
      const wholes = new Int32Array(numbers.buffer)
      for (let i = 0; i < numbers.length; i += MEETING)
        nearestSeam[wholes[i]!] = Math.min(nearestSeam[wholes[i]!]!, numbers[i + 1]!)
      meetings.push({ island: island[Math.floor(twin[stretch[0]!]! / 3)]!, wholes, numbers })
    }
  } finally {
    beside.end()
  }
  for (const { wholes, numbers } of meetings)
    for (let i = 0; i < numbers.length; i += MEETING) {
      const texel = wholes[i]!
      // A rim texel lies beyond the border: the nearest seam is as if it were on it.
      const away = coreOf(cover, unfolding, texel) ? numbers[i + 1]! : numbers[i + 1]! - nearestSeam[texel]!
      const nearness = width / Math.max(ON_SEAM, away) - 1
      numbers[i + 1] = nearness > 0 ? nearness * nearness : 0
    }
  return meetings
}

function coreOf({ owner, boxes }: Cover, { width: columns }: Unfolding, texel: number): boolean {
  const { left, top, width, cover } = boxes[owner[texel]!]!
  return cover[(Math.floor(texel / columns) - top) * width + (texel % columns) - left] === CORE
}

/** Texels beside stretches of borders and where they lie beyond the others', by kernels in memory of their own. */
class Beside {
  private readonly memory = new LentMemory(heapHere()!)
  private readonly assembly = requiredSimd('Strips beside seams are found').assembly
  private readonly own: {
    readonly owner: number
    readonly places: number
    readonly maps: number
    readonly turns: number
  }

  constructor(
    private readonly unfolding: Unfolding,
    cover: Cover,
    turns: Float64Array,
    private readonly width: number,
    private readonly reach: number,
  ) {
    const at = (values: Float64Array | Int32Array): number => this.memory.copied(values).byteOffset
    const { places, maps } = unfolding
    this.own = { owner: at(cover.owner), places: at(places), maps: at(maps), turns: at(turns) }
  }

  end(): void {
    this.memory.end()
  }

  /** MEETING numbers a texel, where the second is how far it is from the stretch; in a buffer of their own. */
  find(stretch: readonly number[], island: number): Float32Array {
    const { assembly, memory, own, reach } = this
    const { left, top, width, height } = this.boxAround(stretch)
    const room = [Int32Array, Float32Array, Float32Array, Int32Array].map((View) =>
      memory.room<Int32Array | Float32Array>(View, width * height),
    )
    room[0]!.fill(-1)
    const [nearest, away, squarely, found] = room.map(({ byteOffset }) => byteOffset) as [
      number,
      number,
      number,
      number,
    ]
    const edges = memory.copied(Int32Array.from(stretch))
    assembly.beginRaster(own.owner, this.unfolding.width, this.unfolding.height)
    assembly.beginLayout(own.places, own.maps, 0, 0, 0)
    const box = [left, top, width] as const
    const beside = assembly.findBeside(
      ...([edges.byteOffset, stretch.length, island, this.width] as const),
      ...box,
      ...([nearest, away, squarely, found] as const),
    )
    const out = memory.room(Float32Array, beside * MEETING)
    const count = assembly.layBeside(found, beside, ...box, nearest, away, own.turns, reach, out.byteOffset)
    const numbers = out.slice(0, count * MEETING)
    memory.giveBack(...room, edges, out)
    return numbers
  }

  /** The texels that may lie within the width of the strip. */
  private boxAround(stretch: readonly number[]): GrownBox {
    const { width: columns, height: rows, places } = this.unfolding
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
    for (const edge of stretch)
      for (const corner of [edge, nextEdge(edge)]) {
        left = Math.min(left, places[corner * 2]!)
        right = Math.max(right, places[corner * 2]!)
        top = Math.min(top, places[corner * 2 + 1]!)
        bottom = Math.max(bottom, places[corner * 2 + 1]!)
      }
    left = Math.max(0, Math.floor(left - this.width))
    top = Math.max(0, Math.floor(top - this.width))
    const width = Math.max(0, Math.min(columns, Math.ceil(right + this.width) + 1) - left)
    return { left, top, width, height: Math.max(0, Math.min(rows, Math.ceil(bottom + this.width) + 1) - top) }
  }
}

type Ends = ReadonlyMap<string, readonly (readonly [edge: number, end: number])[]>

/** Seam edges by their ends: those that are one place on both islands have the same name. */
function endsOf({ island, twin, kind }: Topology, { places, maps }: Unfolding): Ends {
  const ends = new Map<string, [number, number][]>()
  for (let edge = 0; edge < twin.length; edge++) {
    if (kind[edge] !== SEAM || island[Math.floor(edge / 3)]! < 0 || island[Math.floor(twin[edge]! / 3)]! < 0) continue
    for (const [end, corner] of [edge, nextEdge(edge)].entries()) {
      const [x, y, m] = [places[corner * 2]!, places[corner * 2 + 1]!, edge * 6]
      const there = [maps[m]! * x + maps[m + 1]! * y + maps[m + 2]!, maps[m + 3]! * x + maps[m + 4]! * y + maps[m + 5]!]
      const name = [
        island[Math.floor(edge / 3)],
        island[Math.floor(twin[edge]! / 3)],
        ...[x, y, ...there].map((value) => Math.round(STEPS * value)),
      ].join()
      const known = ends.get(name)
      if (known) known.push([edge, end])
      else ends.set(name, [[edge, end]])
    }
  }
  return ends
}

/** Linear parts of the maps over edges at both of their ends (four numbers each), the mean of edges that go on there. */
function smoothedTurns(ends: Ends, edges: number, { maps }: Unfolding): Float64Array {
  const turns = new Float64Array(8 * edges)
  for (const list of ends.values())
    for (const [k, part] of [0, 1, 3, 4].entries()) {
      let sum = 0
      for (const [edge] of list) sum += maps[edge * 6 + part]!
      for (const [edge, end] of list) turns[edge * 8 + end * 4 + k] = sum / list.length
    }
  return turns
}

/** Seam edges in a row that have one island on the other side. */
function stretchesOf(ends: Ends): number[][] {
  const parents = new Map<number, number>()
  const root = (edge: number): number => {
    for (let above = parents.get(edge)!; above !== edge; above = parents.get(edge)!) {
      parents.set(edge, parents.get(above)!)
      edge = above
    }
    return edge
  }
  for (const list of ends.values()) {
    for (const [edge] of list) if (!parents.has(edge)) parents.set(edge, edge)
    const first = root(list[0]![0])
    for (const [edge] of list) parents.set(root(edge), first)
  }
  const stretches = new Map<number, number[]>()
  for (const edge of parents.keys()) {
    const at = root(edge)
    const known = stretches.get(at)
    if (known) known.push(edge)
    else stretches.set(at, [edge])
  }
  return [...stretches.values()]
}
