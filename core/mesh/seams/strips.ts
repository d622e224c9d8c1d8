import { Growing } from '../../growing'
import type { Cover } from './cover'
import { CORE } from './cover'
import type { Topology } from './topology'
import { SEAM, nextEdge } from './topology'
import type { Unfolding } from './unfolding'

/**
 * Texels beside seams, and where other islands hold the values that belong there too: beyond their own borders.
 * Shape: `texels`, `islands` and `ratios` one number each: the texel of the raster, the other island, and what the mean of both counts
 * beside the texel's own value, which counts 1; `places` two: where it reads there, in texels from the raster's corner; `ways` four: the
 * linear part of the way there.
 */
export interface Meetings {
  readonly count: number
  readonly texels: Int32Array
  readonly islands: Int32Array
  readonly ratios: Float32Array
  readonly places: Float32Array
  readonly ways: Float32Array
}

/** Distance in texels below which a texel counts as on the seam. */
const ON_SEAM = 0.05
/** Of edges equally near the one that a texel is more squarely in front of counts; equal within this share of the distance squared. */
const EQUAL = 1e-4
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
): Meetings {
  const { island, twin } = topology
  const ends = endsOf(topology, unfolding)
  const turns = smoothedTurns(ends, twin.length, unfolding)
  const beside = new Beside(unfolding, cover, width)
  const texels = new Growing(Int32Array)
  const islands = new Growing(Int32Array)
  const aways = new Growing(Float32Array)
  const places = new Growing(Float32Array)
  const ways = new Growing(Float32Array)
  /** By texel the distance to the nearest seam. */
  const nearestSeam = new Float32Array(unfolding.width * unfolding.height).fill(Infinity)
  const there = new Float64Array(8)
  for (const stretch of stretchesOf(ends)) {
    const other = island[Math.floor(twin[stretch[0]!]! / 3)]!
    beside.find(stretch, island[Math.floor(stretch[0]! / 3)]!)
    for (let i = 0; i < beside.count; i++) {
      const texel = beside.found[i]!
      landingAt(texel, beside.edge[texel]!, unfolding, turns, there)
      const dx = there[0]! - there[2]!
      const dy = there[1]! - there[3]!
      if (dx * dx + dy * dy > reach * reach) continue
      const away = Math.sqrt(beside.away2[texel]!)
      if (away < nearestSeam[texel]!) nearestSeam[texel] = away
      texels.add(texel)
      islands.add(other)
      aways.add(away)
      places.add(there[0]!)
      places.add(there[1]!)
      for (let k = 4; k < 8; k++) ways.add(there[k]!)
    }
    beside.clear()
  }
  const ratios = aways.all
  for (let i = 0; i < ratios.length; i++) {
    const texel = texels.all[i]!
    // A rim texel lies beyond the border: the nearest seam is as if it were on it.
    const away = coreOf(cover, unfolding, texel) ? ratios[i]! : ratios[i]! - nearestSeam[texel]!
    const nearness = width / Math.max(ON_SEAM, away) - 1
    ratios[i] = nearness > 0 ? nearness * nearness : 0
  }
  return { count: ratios.length, texels: texels.all, islands: islands.all, ratios, places: places.all, ways: ways.all }
}

function coreOf({ owner, boxes }: Cover, { width: columns }: Unfolding, texel: number): boolean {
  const { left, top, width, cover } = boxes[owner[texel]!]!
  return cover[(Math.floor(texel / columns) - top) * width + (texel % columns) - left] === CORE
}

/** Texels of an island within `reach` of a stretch of its border, with the nearest edge of it. */
class Beside {
  /** By texel of the raster. */
  readonly edge: Int32Array
  readonly away2: Float32Array
  private readonly squarely: Float32Array
  readonly found: Int32Array
  count = 0

  constructor(
    private readonly unfolding: Unfolding,
    private readonly cover: Cover,
    private readonly reach: number,
  ) {
    const texels = unfolding.width * unfolding.height
    this.edge = new Int32Array(texels).fill(-1)
    this.away2 = new Float32Array(texels)
    this.squarely = new Float32Array(texels)
    this.found = new Int32Array(texels)
  }

  clear(): void {
    for (let i = 0; i < this.count; i++) this.edge[this.found[i]!] = -1
    this.count = 0
  }

  find(stretch: readonly number[], island: number): void {
    const { edge: nearest, away2, squarely, found, reach } = this
    const { width, height, places } = this.unfolding
    const { owner } = this.cover
    for (const edge of stretch) {
      const next = nextEdge(edge)
      const ax = places[edge * 2]!
      const ay = places[edge * 2 + 1]!
      const bx = places[next * 2]! - ax
      const by = places[next * 2 + 1]! - ay
      const length2 = bx * bx + by * by
      const bottom = Math.min(height - 1, Math.ceil(Math.max(ay, ay + by) + reach))
      const right = Math.min(width - 1, Math.ceil(Math.max(ax, ax + bx) + reach))
      const left = Math.max(0, Math.floor(Math.min(ax, ax + bx) - reach))
      for (let y = Math.max(0, Math.floor(Math.min(ay, ay + by) - reach)); y <= bottom; y++)
        for (let x = left; x <= right; x++) {
          const texel = y * width + x
          if (owner[texel] !== island) continue
          const px = x + 0.5 - ax
          const py = y + 0.5 - ay
          const share = (px * bx + py * by) / length2
          const along = share < 0 ? 0 : share > 1 ? 1 : share
          const qx = px - along * bx
          const qy = py - along * by
          const away = qx * qx + qy * qy
          if (away >= reach * reach) continue
          const across = px * by - py * bx
          const front = (across * across) / length2
          if (nearest[texel]! >= 0) {
            const before = away2[texel]!
            if (away > before * (1 + EQUAL)) continue
            if (away > before * (1 - EQUAL) && front <= squarely[texel]!) continue
          } else found[this.count++] = texel
          nearest[texel] = edge
          away2[texel] = away
          squarely[texel] = front
        }
    }
  }
}

/**
 * Where a texel lies beyond the other island's border: its foot on the edge by the edge's map, the rest by turns that are smooth along
 * the seam. `out`: the place, that of the foot, and the linear part of the way.
 */
function landingAt(
  texel: number,
  edge: number,
  { width, maps, places }: Unfolding,
  turns: Float64Array,
  out: Float64Array,
): void {
  const x = (texel % width) + 0.5
  const y = Math.floor(texel / width) + 0.5
  const held = shareOf(places, edge, x, y)
  const along = held < 0 ? 0 : held > 1 ? 1 : held
  const fx = footX(places, edge, along)
  const fy = footY(places, edge, along)
  const m = edge * 6
  const t = edge * 8
  for (let k = 0; k < 4; k++) out[4 + k] = turns[t + k]! * (1 - along) + turns[t + 4 + k]! * along
  out[2] = maps[m]! * fx + maps[m + 1]! * fy + maps[m + 2]!
  out[3] = maps[m + 3]! * fx + maps[m + 4]! * fy + maps[m + 5]!
  out[0] = out[2] + out[4]! * (x - fx) + out[5]! * (y - fy)
  out[1] = out[3] + out[6]! * (x - fx) + out[7]! * (y - fy)
}

/** Where along an edge the point of its line lies that is nearest to a place: 0 at its beginning, 1 at its end. */
function shareOf(places: Float64Array, edge: number, x: number, y: number): number {
  const next = nextEdge(edge)
  const ax = places[edge * 2]!
  const ay = places[edge * 2 + 1]!
  const bx = places[next * 2]! - ax
  const by = places[next * 2 + 1]! - ay
  return ((x - ax) * bx + (y - ay) * by) / (bx * bx + by * by)
}

const footX = (places: Float64Array, edge: number, share: number): number =>
  places[edge * 2]! + share * (places[nextEdge(edge) * 2]! - places[edge * 2]!)
const footY = (places: Float64Array, edge: number, share: number): number =>
  places[edge * 2 + 1]! + share * (places[nextEdge(edge) * 2 + 1]! - places[edge * 2 + 1]!)

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
