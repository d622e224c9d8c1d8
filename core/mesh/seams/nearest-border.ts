import type { IslandBox } from './cover'
import { CORE } from './cover'
import type { Topology } from './topology'
import { INNER, SEAM, nextEdge } from './topology'
import type { Unfolding } from './unfolding'

/** At a corner two edges are equally near: those that differ by less than this, as shares of the distance squared, are. */
const EQUAL = 1e-4
/** Rows after which others may have their turn. */
const ROWS = 32

/** Texels around an edge at which it is looked at; near ones are as far as rims go. */
const SEED = 1
const NEAR = 3

/** The nearest border edge of every texel of a grown box that is no core texel of the island; −1 elsewhere. */
export interface NearestBorder {
  readonly left: number
  readonly top: number
  readonly width: number
  readonly height: number
  readonly edge: Int32Array
  /** Distance to it, squared, in texels. */
  readonly distance2: Float32Array
}

/**
 * Seeds along the edges, then sweeps that carry the number of the edge on, each time with the exact distance to it. At a tie a seam goes
 * before an open border, then the edge that the texel is more squarely in front of. With `nearOnly` texels farther than rims are have none.
 */
export async function nearestBorder(
  { islands, kind }: Topology,
  { places }: Unfolding,
  island: number,
  box: IslandBox,
  reach: number,
  breathe: () => Promise<void>,
  nearOnly = false,
): Promise<NearestBorder> {
  const [left, top] = [box.left - reach, box.top - reach]
  // Kernels go four texels at a time.
  const [width, height] = [Math.ceil((box.width + 2 * reach) / 4) * 4, box.height + 2 * reach]
  const count = width * height
  const edge = new Int32Array(count)
  const distance2 = new Float32Array(count).fill(1e30)
  const front = new Float32Array(count).fill(-1)
  const core = new Uint8Array(count)
  for (let y = 0; y < box.height; y++)
    for (let x = 0; x < box.width; x++)
      if (box.cover[y * box.width + x] === CORE) core[(y + reach) * width + x + reach] = 1
  const far = (reach + 3) * (reach + 3)
  const border = borderOf(islands[island]!, kind, places, left, top)
  /** Numbers of border edges in `border`; −1 of none. */
  const own = new Int32Array(count).fill(-1)
  const offer = (at: number, x: number, y: number, number: number): void => {
    const from = number * EDGE
    const bx = border[from + 2]!
    const by = border[from + 3]!
    const px = x + 0.5 - border[from]!
    const py = y + 0.5 - border[from + 1]!
    const length2 = border[from + 4]!
    const share = (px * bx + py * by) / length2
    const along = share < 0 ? 0 : share > 1 ? 1 : share
    const qx = px - along * bx
    const qy = py - along * by
    const away = qx * qx + qy * qy
    const before = distance2[at]!
    if (away > before * (1 + EQUAL) + 1e-7) return
    const across = px * by - py * bx
    const squarely = (across * across) / length2 + border[from + 5]!
    if (away < before * (1 - EQUAL) - 1e-7 || squarely > front[at]!) {
      distance2[at] = away
      own[at] = number
      front[at] = squarely
    }
  }
  const take = (at: number, x: number, y: number, from: number): void => {
    const number = own[from]!
    // What is far off there is out of reach here.
    if (number >= 0 && number !== own[at] && distance2[from]! < far) offer(at, x, y, number)
  }
  const around = nearOnly ? NEAR : SEED
  for (let number = 0; number * EDGE < border.length; number++) {
    const from = number * EDGE
    const ax = border[from]!
    const ay = border[from + 1]!
    const dx = border[from + 2]!
    const dy = border[from + 3]!
    const steps = Math.ceil(Math.sqrt(dx * dx + dy * dy) * 1.5) + 1
    for (let i = 0; i <= steps; i++) {
      const cx = Math.floor(ax + (dx * i) / steps)
      const cy = Math.floor(ay + (dy * i) / steps)
      for (let y = Math.max(0, cy - around); y <= Math.min(height - 1, cy + around); y++)
        for (let x = Math.max(0, cx - around); x <= Math.min(width - 1, cx + around); x++)
          if (core[y * width + x] === 0) offer(y * width + x, x, y, number)
    }
  }
  const sweep = (y: number, from: number): void => {
    const row = y * width
    for (let x = 0; x < width; x++) {
      if (core[row + x] !== 0) continue
      if (from >= 0 && from < height)
        for (let k = Math.max(0, x - 1); k <= Math.min(width - 1, x + 1); k++) take(row + x, x, y, from * width + k)
      if (x > 0) take(row + x, x, y, row + x - 1)
    }
    for (let x = width - 2; x >= 0; x--) if (core[row + x] === 0) take(row + x, x, y, row + x + 1)
  }
  for (let pass = 0; pass < (nearOnly ? 0 : 2); pass++) {
    for (let y = 0; y < height; y++) {
      if (y % ROWS === 0) await breathe()
      sweep(y, y - 1)
    }
    for (let y = height - 1; y >= 0; y--) {
      if (y % ROWS === 0) await breathe()
      sweep(y, y + 1)
    }
  }
  for (let at = 0; at < count; at++) edge[at] = own[at]! < 0 ? -1 : border[own[at]! * EDGE + 6]!
  return { left, top, width, height, edge, distance2 }
}

/** Numbers a border edge: where it begins and its way, in texels; that squared; what a seam goes before others by; its number. */
const EDGE = 7

function borderOf(
  triangles: readonly number[],
  kind: Uint8Array,
  places: Float64Array,
  left: number,
  top: number,
): Float64Array {
  const found: number[] = []
  for (const t of triangles)
    for (let e = t * 3; e < t * 3 + 3; e++) {
      if (kind[e] === INNER) continue
      const next = nextEdge(e)
      const dx = places[next * 2]! - places[e * 2]!
      const dy = places[next * 2 + 1]! - places[e * 2 + 1]!
      const squarely = kind[e] === SEAM ? 1e12 : 0
      found.push(places[e * 2]! - left, places[e * 2 + 1]! - top, dx, dy, dx * dx + dy * dy, squarely, e)
    }
  return Float64Array.from(found)
}
