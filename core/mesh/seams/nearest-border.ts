import type { IslandBox } from './cover'
import { CORE } from './cover'
import type { Topology } from './topology'
import { INNER, SEAM, nextEdge } from './topology'
import type { Unfolding } from './unfolding'

/** At a corner two edges are equally near: those that differ by less than this, as shares of the distance squared, are. */
const EQUAL = 1e-4
/** Rows after which others may have their turn. */
const ROWS = 32

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
 * before an open border, then the edge that the texel is more squarely in front of.
 */
export async function nearestBorder(
  { islands, kind }: Topology,
  { places }: Unfolding,
  island: number,
  box: IslandBox,
  reach: number,
  breathe: () => Promise<void>,
): Promise<NearestBorder> {
  const [left, top] = [box.left - reach, box.top - reach]
  // Kernels go four texels at a time.
  const [width, height] = [Math.ceil((box.width + 2 * reach) / 4) * 4, box.height + 2 * reach]
  const count = width * height
  const edge = new Int32Array(count).fill(-1)
  const distance2 = new Float32Array(count).fill(1e30)
  const front = new Float32Array(count).fill(-1)
  const core = new Uint8Array(count)
  for (let y = 0; y < box.height; y++)
    for (let x = 0; x < box.width; x++)
      if (box.cover[y * box.width + x] === CORE) core[(y + reach) * width + x + reach] = 1
  const offer = (at: number, x: number, y: number, e: number): void => {
    const next = nextEdge(e)
    const [ax, ay] = [places[e * 2]!, places[e * 2 + 1]!]
    const [bx, by] = [places[next * 2]! - ax, places[next * 2 + 1]! - ay]
    const [px, py] = [x + left + 0.5 - ax, y + top + 0.5 - ay]
    const length2 = bx * bx + by * by
    const along = Math.min(1, Math.max(0, (px * bx + py * by) / length2))
    const [qx, qy] = [px - along * bx, py - along * by]
    const away = qx * qx + qy * qy
    if (away > distance2[at]! * (1 + EQUAL) + 1e-7) return
    const across = px * by - py * bx
    const squarely = (across * across) / length2 + (kind[e] === SEAM ? 1e12 : 0)
    if (away < distance2[at]! * (1 - EQUAL) - 1e-7 || squarely > front[at]!) {
      distance2[at] = away
      edge[at] = e
      front[at] = squarely
    }
  }
  const take = (at: number, x: number, y: number, from: number): void => {
    const e = edge[from]!
    if (e >= 0 && e !== edge[at]) offer(at, x, y, e)
  }
  for (const t of islands[island]!)
    for (let e = t * 3; e < t * 3 + 3; e++) {
      if (kind[e] === INNER) continue
      const next = nextEdge(e)
      const [ax, ay] = [places[e * 2]! - left, places[e * 2 + 1]! - top]
      const [dx, dy] = [places[next * 2]! - left - ax, places[next * 2 + 1]! - top - ay]
      const steps = Math.ceil(Math.sqrt(dx * dx + dy * dy) * 1.5) + 1
      for (let i = 0; i <= steps; i++) {
        const [cx, cy] = [Math.floor(ax + (dx * i) / steps), Math.floor(ay + (dy * i) / steps)]
        for (let y = Math.max(0, cy - 1); y <= Math.min(height - 1, cy + 1); y++)
          for (let x = Math.max(0, cx - 1); x <= Math.min(width - 1, cx + 1); x++)
            if (core[y * width + x] === 0) offer(y * width + x, x, y, e)
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
  for (let pass = 0; pass < 2; pass++) {
    for (let y = 0; y < height; y++) {
      if (y % ROWS === 0) await breathe()
      sweep(y, y - 1)
    }
    for (let y = height - 1; y >= 0; y--) {
      if (y % ROWS === 0) await breathe()
      sweep(y, y + 1)
    }
  }
  return { left, top, width, height, edge, distance2 }
}
