import { Growing } from '../../growing'
import { READ_BYTES, fractionOf } from '../../field/reads'
import { heapHere } from '../../kernels/heap-here'
import { LentMemory } from '../../kernels/lent-memory'
import { requiredSimd } from '../../kernels/simd'
import type { GrownBox } from './around-islands'
import { grownBox } from './around-islands'
import type { Layout } from './layout'
import type { Topology } from './topology'
import { SEAM, nextEdge } from './topology'
import type { Unfolding } from './unfolding'

/**
 * Texels beside seams, those of one island on the other side after another; a texel may be there several times. By texel: its place in the
 * raster; what the mean of both sides counts beside its own value, which counts 1; its reads.
 */
export interface Meetings {
  /** By island on the other side the number of its first; then of the one after the last. */
  readonly firsts: readonly number[]
  readonly texels: Uint32Array
  readonly weights: Float32Array
  readonly reads: Uint8Array
}

/**
 * What meetings read: where the island on the other side holds the values that belong there too, beyond its own border, in its picture grown
 * by `around` texels and within `reach` of its border; or the place on the seam, in the raster, on their own side and on the other.
 */
export type MeetingReads = { readonly around: number; readonly reach: number } | 'feet'

/** Distance in texels below which a texel counts as on the seam. */
const ON_SEAM = 0.05
/** Places of edges are one where they are this near, in shares of a texel. */
const STEPS = 64

/**
 * The strips of `width` texels beside all seams, in which both islands' results of a smoothing step are mixed: half and half at the
 * seam, whatever else is near.
 * Source: own composition, measured in its prototype: 99th percentile of the steps over a head's seams from .052 to .0014.
 */
export function meetingsOf(layout: Layout, width: number, what: MeetingReads): Meetings {
  const { topology, unfolding, cover } = layout
  const ends = endsOf(topology, unfolding)
  const strips = stretchesOf(ends)
    .map((edges) => ({ edges, ...sidesOf(topology, edges[0]!) }))
    .sort((one, other) => one.other - other.other)
  const beside = new Beside(layout, smoothedTurns(ends, topology.twin.length, unfolding), width, what)
  const firsts: number[] = []
  try {
    for (const strip of strips) {
      while (firsts.length <= strip.other) firsts.push(beside.texels.length)
      beside.find(strip)
    }
  } finally {
    beside.end()
  }
  while (firsts.length <= topology.islands.length) firsts.push(beside.texels.length)
  const [texels, distances] = [beside.texels.all, beside.distances.all]
  return { firsts, texels, weights: weightsOf(texels, distances, width, cover.owner.length), reads: beside.reads.all }
}

/** A stretch of border edges of an island that have one island on the other side. */
interface Strip {
  readonly edges: readonly number[]
  readonly own: number
  readonly other: number
}

const sidesOf = ({ island, twin }: Topology, edge: number): Omit<Strip, 'edges'> => ({
  own: island[Math.floor(edge / 3)]!,
  other: island[Math.floor(twin[edge]! / 3)]!,
})

/** Distances are negative beyond the border. */
function weightsOf(texels: Uint32Array, distances: Float32Array, width: number, size: number): Float32Array {
  // How far the strip of the nearest seam goes on beyond a texel; memory that is not written takes none.
  const within = new Float32Array(size)
  for (let i = 0; i < texels.length; i++) {
    const texel = texels[i]!
    within[texel] = Math.max(within[texel]!, width - Math.abs(distances[i]!))
  }
  const weights = new Float32Array(texels.length)
  for (let i = 0; i < texels.length; i++) {
    const distance = distances[i]!
    // Beyond the border the nearest seam is as if the texel were on it.
    const away = distance >= 0 ? distance : within[texels[i]!]! - distance - width
    const nearness = Math.max(0, width / Math.max(ON_SEAM, away) - 1)
    weights[i] = nearness * nearness
  }
  return weights
}

/** Texels beside strips of borders and what they read, by kernels in memory of their own. */
class Beside {
  readonly texels = new Growing(Uint32Array)
  readonly distances = new Growing(Float32Array)
  readonly reads = new Growing(Uint8Array)
  private readonly memory = new LentMemory(heapHere()!)
  private readonly assembly = requiredSimd('Strips beside seams are found').assembly
  private readonly at: Readonly<Record<'owner' | 'places' | 'maps' | 'turns', number>>
  private readonly covers = new Map<number, number>()

  constructor(
    private readonly layout: Layout,
    turns: Float64Array,
    private readonly width: number,
    private readonly what: MeetingReads,
  ) {
    const at = (values: Float64Array | Int32Array): number => this.memory.copied(values).byteOffset
    const { places, maps } = layout.unfolding
    this.at = { owner: at(layout.cover.owner), places: at(places), maps: at(maps), turns: at(turns) }
  }

  end(): void {
    this.memory.end()
  }

  /** Adds the texels of a strip. */
  find({ edges, own, other }: Strip): void {
    const { assembly, memory, at, what } = this
    const { unfolding, cover } = this.layout
    const { left, top, width, height } = this.boxAround(edges)
    const box = [Int32Array, Float32Array, Float32Array].map((View) =>
      memory.room<Int32Array | Float32Array>(View, width * height),
    )
    const list = memory.copied(Int32Array.from(edges))
    assembly.beginRaster(at.owner, unfolding.width, unfolding.height)
    assembly.beginLayout(at.places, at.maps, 0, 0, 0)
    const [nearest, away, squarely] = box.map(({ byteOffset }) => byteOffset) as [number, number, number]
    assembly.beginBeside(own, left, top, width, height, nearest, away, squarely)
    const count = assembly.findBeside(list.byteOffset, edges.length, this.width)
    const texels = memory.room(Uint32Array, count)
    const distances = memory.room(Float32Array, count)
    const each = what === 'feet' ? 2 * READ_BYTES : READ_BYTES
    const reads = memory.room(Uint8Array, count * each)
    const island = cover.boxes[own]!
    assembly.beginLaying(
      ...([at.turns, this.coverOf(own), island.left, island.top, island.width] as const),
      ...([texels.byteOffset, distances.byteOffset, reads.byteOffset] as const),
    )
    const laid = what === 'feet' ? this.layFeet(other) : this.layTaps(grownBox(cover.boxes[other]!, what.around), what)
    this.texels.addAll(texels.subarray(0, laid))
    this.distances.addAll(distances.subarray(0, laid))
    this.reads.addAll(reads.subarray(0, laid * each))
    memory.giveBack(...box, list, texels, distances, reads)
  }

  private layFeet(other: number): number {
    const { width, height } = this.layout.unfolding
    return this.assembly.layFeet(other, fractionOf(width, height))
  }

  private layTaps({ left, top, width, height }: GrownBox, { reach }: { readonly reach: number }): number {
    return this.assembly.layTaps(reach, left, top, width, height, fractionOf(width, height))
  }

  /** Where an island's cover lies. */
  private coverOf(island: number): number {
    const known = this.covers.get(island)
    if (known !== undefined) return known
    const { byteOffset } = this.memory.copied(this.layout.cover.boxes[island]!.cover)
    this.covers.set(island, byteOffset)
    return byteOffset
  }

  /** The texels that may lie within the width of the strip. */
  private boxAround(edges: readonly number[]): GrownBox {
    const { width: columns, height: rows, places } = this.layout.unfolding
    let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity]
    for (const edge of edges)
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
